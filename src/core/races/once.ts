import { fault } from '../basics/fault.ts';
import { RECEIVED } from '../basics/received-file.ts';
import type { Inputs } from '../judging/options.ts';
import type { FieldStep, FieldSteps, Plan } from '../plan/plan.ts';
import { isObject } from '../run/raw.ts';

/** What `judgeAndStore` and `amendAndStore` take besides the options of `judge` and `amend`. */
export interface StoringOptions {
  /**
   * A key that the sender repeats with the same request (an `Idempotency-Key`): what was stored with it once is not stored again, and its
   * answer is given as it was then. The same key with another submission is another request.
   * Secrets stand in no such answer. Needs records of `serially`, or of a transaction, of a database with a table for it.
   */
  readonly once?: string;
}

/** Keeps the answer that was given with a key, in the transaction in which its value is stored. */
export type KeepAnswer = <V extends object>(verdict: V) => Promise<V>;

/** The answer that was given with a key before; else what becomes of the value now. */
export async function onlyOnce<V>(
  { name, fields }: Plan,
  once: string | undefined,
  sent: readonly unknown[],
  { records, given, itself }: Inputs,
  run: (keep: KeepAnswer) => Promise<V>,
): Promise<V> {
  if (once === undefined) return run(async (verdict) => verdict);
  if (typeof once !== 'string' || once === '') fault(`Intake "${name}": once is a text that the sender repeats with the same request.`);
  const answers = records?.answers;
  if (!answers) fault(`Intake "${name}": once needs the records of a transaction, such as those of serially.`);
  // A key is the sender's: with another request, of another caller or in another house it is another one.
  const key = written([name, once, sent, given, itself, records.scope]);
  if (key === undefined) fault(`Intake "${name}": once needs a submission that can be written as JSON.`);
  const known = await answers.of(key);
  if (known !== undefined) return JSON.parse(known) as V;
  return run(async (verdict) => {
    const told = 'value' in verdict ? { ...verdict, value: withoutSecrets(fields, verdict.value) } : verdict;
    const answer = JSON.stringify(told, (_, value) => (typeof value === 'bigint' ? numberOf(value) : value));
    await answers.keep(key, answer);
    return JSON.parse(answer);
  });
}

/** What a request says; of files what they are called, and how large they are. */
function written(request: readonly unknown[]): string | undefined {
  try {
    return JSON.stringify(request, (_, value) => {
      if (typeof value === 'bigint') return String(value);
      if (ArrayBuffer.isView(value)) return value.byteLength;
      if (typeof value?.arrayBuffer === 'function') return [value.name, value.type, value.size];
      // Where a file is kept is another place each time.
      return isObject(value) && RECEIVED in value ? [value.name, value.mediaType, value.size] : value;
    });
  } catch {
    return undefined;
  }
}

/** A value without what is secret in it: no table keeps it beside the application's own. */
function withoutSecrets({ steps }: Pick<FieldSteps, 'steps'>, value: unknown): unknown {
  if (!isObject(value)) return value;
  const told = Object.entries(value).flatMap(([name, inner]): [string, unknown][] => {
    const step = steps.find(({ key }) => key === name);
    return step?.place.isSecret ? [] : [[name, step ? insideOf(step, inner) : inner]];
  });
  return Object.fromEntries(told);
}

function insideOf({ inside }: FieldStep, value: unknown): unknown {
  return inside.reduce<unknown>((left, held) => {
    if (!held.isEntry) return withoutSecrets(held, left);
    const [item] = held.steps as [FieldStep];
    if (Array.isArray(left)) return left.map((entry) => insideOf(item, entry));
    if (!isObject(left)) return left;
    return Object.fromEntries(Object.entries(left).map(([name, entry]) => [name, insideOf(item, entry)]));
  }, value);
}

/** JSON has no such numbers; what drivers count in them is small. */
function numberOf(value: bigint): number | string {
  const number = Number(value);
  return Number.isSafeInteger(number) ? number : String(value);
}
