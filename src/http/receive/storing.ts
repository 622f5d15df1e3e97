import type { Verdict } from '../../core/basics/verdict.ts';
import { undecided } from '../../core/races/undecided.ts';
import type { Records } from '../../core/stored/records.ts';
import { judgePart, type PartToJudge, together } from './judging.ts';
import { type About, called } from './options.ts';

/** What becomes of the parts of a request. */
export interface JudgedParts {
  readonly verdict: Verdict<unknown>;
  readonly changed: readonly string[];
  /** What storing gave. */
  readonly stored?: unknown;
  /** It was handed to what stores it. */
  readonly isStored?: boolean;
}

interface Serial {
  serially?(
    run: (records: Records, transaction: unknown) => Promise<JudgedParts>,
    options: { readonly signal: AbortSignal },
  ): Promise<JudgedParts | Verdict<unknown>>;
}

/** What stores, and by which key its answer is known again. */
export interface Stores {
  readonly store?: (value: unknown, storing: object) => unknown;
  readonly once?: (about: About<never, never>) => string | undefined;
}

/**
 * Judges the parts of a request and stores what is accepted, in one transaction where the records know how. The part with the body is
 * stored; those beside it are judged before.
 */
export async function judgeAndStoreParts(
  parts: readonly PartToJudge[],
  isSingle: boolean,
  about: About<unknown, unknown>,
  { store = () => undefined, once: keyOf }: Stores,
  signal: () => AbortSignal,
  handOver: (value: unknown) => Promise<void> | undefined,
): Promise<JudgedParts> {
  const { records } = (parts[0]?.options ?? {}) as { readonly records?: Records & Serial };
  const once = keyOf?.(about as About<never, never>);
  const run = async (inside: Records | undefined, transaction: unknown): Promise<JudgedParts> => {
    const all = parts.map((part) => ({ ...part, options: inside ? { ...part.options, records: inside } : part.options }));
    const main = all.find(({ name }) => name === 'body') ?? (all[0] as PartToJudge);
    const verdicts = new Map<PartToJudge, Verdict<unknown>>();
    // A transaction has one connection.
    for (const part of all) if (part !== main) verdicts.set(part, await judgePart(part));
    const beside = [...verdicts];
    let isStoring = false;
    const keep = async (value: unknown, changed: readonly string[] = []) => {
      isStoring = true;
      const values = beside.map(([{ name }, verdict]) => [name, (verdict as { readonly value?: unknown }).value]);
      const whole = isSingle ? value : { ...Object.fromEntries(values), [main.name]: value };
      await handOver(whole);
      return store(whole, { ...about, ...(inside && { records: inside }), transaction, changed });
    };
    const isClear = beside.every(([, { outcome }]) => outcome === 'accepted');
    verdicts.set(
      main,
      isClear ? await storePart(once === undefined ? main : { ...main, options: { ...main.options, once } }, keep) : await judgePart(main),
    );
    const of = verdicts.get(main) as Verdict<unknown> & { readonly changed?: readonly string[]; readonly stored?: unknown };
    const verdict = isSingle
      ? of
      : together(
          all,
          all.map((part) => verdicts.get(part) as Verdict<unknown>),
        );
    return { verdict, changed: of.changed ?? [], stored: of.stored, isStored: isStoring };
  };
  if (!records?.serially) return run(records, undefined);
  let broken: { readonly error: unknown } | undefined;
  const watched = (inside: Records, transaction: unknown) =>
    run(inside, transaction).catch((error) => {
      broken = { error };
      throw error;
    });
  try {
    const done = await records.serially(watched, { signal: signal() });
    return 'verdict' in done ? done : { verdict: done, changed: [] };
  } catch (error) {
    // What judging and storing throw is for the application, and so is that nobody knows what is stored. Otherwise there was no transaction.
    if (broken?.error === error || (error as Error).name === 'InDoubt') throw error;
    return { verdict: undecided('records', 'unavailable', error), changed: [] };
  }
}

function storePart({ intake, read, options, amends }: PartToJudge, keep: (value: unknown, changed?: readonly string[]) => unknown) {
  if (!amends) return called(intake).judgeAndStore(read.submission, options, keep);
  const { stored, ...rest } = amends;
  return called(intake).amendAndStore(stored, read.submission, { ...options, ...rest }, keep);
}
