import { collection, day, group, intake, known, list, text, unique, upload, whole } from 'jestril';
import { type BindOptions, type BoundForm, bindForm } from 'jestril/browser';
import { de, pl } from 'jestril/catalogues';

// A page whose controls stand anywhere, and whose server answers when the test says so.

const owners = collection('owners', { email: text, town: text }, { key: 'email' });
const places = collection('places', { code: text }, { key: 'code' });
const stay = intake(
  'stay',
  {
    name: text('Name'),
    email: text('E-mail').orAbsent(),
    town: text('Town').orAbsent(),
    place: text('Place').orAbsent(),
    guests: whole('Guests').orAbsent(),
    from: day('From').orAbsent(),
    grade: text('Grade').orAbsent(),
    paper: upload('Paper').orAbsent(),
    crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
  },
  { rules: [unique(owners, { email: 'email', town: 'town' }), known(places, { code: 'place' })], catalogues: [de, pl] },
);

/** An element of one's own that is associated with forms. */
class Grades extends HTMLElement {
  static readonly formAssociated = true;
  readonly #internals = this.attachInternals();
  connectedCallback(): void {
    this.tabIndex = 0;
  }
  set value(value: string) {
    this.#internals.setFormValue(value);
    this.dispatchEvent(new Event('input', { bubbles: true, composed: true }));
  }
}
customElements.define('x-grades', Grades);

const form = document.forms.namedItem('stay') as HTMLFormElement;
const fieldset = form.querySelector('fieldset') as HTMLFieldSetElement;
const sent: [string, FormDataEntryValue][][] = [];
const troubles: string[] = [];
let answerSent: ((answer: Response | Error) => void) | undefined;
let bound: BoundForm | undefined;

Object.assign(window, {
  sent,
  troubles,
  before: '',
  bind(options: BindOptions & { readonly sends?: boolean } = {}) {
    (window as unknown as { before: string }).before = document.body.outerHTML;
    bound = bindForm(form, stay, {
      judgeAt: '/judge',
      wait: 0,
      ...(options.sends !== false && {
        send(data: FormData) {
          sent.push([...data]);
          // As many pages do, so that nothing is changed meanwhile.
          fieldset.disabled = true;
          return new Promise<Response>((resolve, reject) => {
            answerSent = (answer) => (answer instanceof Error ? reject(answer) : resolve(answer));
          });
        },
        onAnswer() {
          fieldset.disabled = false;
        },
        onTrouble(error: unknown) {
          fieldset.disabled = false;
          troubles.push(String(error));
        },
      }),
      ...options,
    });
  },
  answer(status: number | undefined, findings: unknown = []) {
    const headers = { 'content-type': 'application/problem+json' };
    answerSent?.(status === undefined ? new TypeError('no network') : new Response(JSON.stringify({ findings }), { status, headers }));
  },
  show: (findings: []) => bound?.show(findings),
  release: () => bound?.release(),
});
