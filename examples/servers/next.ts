import type { Fields, Intake, Verdict } from 'jestril';
import { formObject, type ShownForm, shownForm } from 'jestril/form';

type Handler = (request: Request, params?: { readonly [name: string]: string }) => Promise<Response>;

/** A handler of `jestril/fetch` as a route handler of Next.js: `export const POST = asRoute(book)`. Its parameters come as a promise. */
export const asRoute =
  (handler: Handler) =>
  async (request: Request, { params }: { readonly params: Promise<{ readonly [name: string]: string }> }): Promise<Response> =>
    handler(request, await params);

/** What a server action gives to `useActionState`: the form to show again, or what was done. */
export type ActionState = { readonly form?: ShownForm; readonly verdict?: Verdict<unknown> };

/** A server action: judges the form, and stores what is accepted. */
export const asAction =
  <F extends Fields>(form: Intake<F>, judge: (submission: object) => Promise<Verdict<unknown>>) =>
  async (_before: ActionState, data: FormData): Promise<ActionState> => {
    // Names of the framework's own begin with a dollar.
    const pairs = [...data].filter(([name]) => !name.startsWith('$ACTION'));
    const verdict = await judge(formObject(pairs));
    if (verdict.outcome === 'accepted') return { verdict };
    return { verdict, form: shownForm(form, pairs, verdict.outcome === 'rejected' ? verdict.findings : []) };
  };
