import { fault } from '../basics/fault.ts';
import type { Plan } from '../plan/plan.ts';
import type { Records } from '../stored/records.ts';

/** What `judgeAndStore` and `amendAndStore` take besides the options of `judge` and `amend`. */
export interface StoringOptions {
  /**
   * A key that the sender repeats with the same request (an `Idempotency-Key`): what was stored with it once is not stored again, and its
   * answer is given as it was then. Needs records of `serially`, or of a transaction, of a database with a table for it.
   */
  readonly once?: string;
}

/** Keeps the answer that was given with a key, in the transaction in which its value is stored. */
export type KeepAnswer = <V extends object>(verdict: V) => Promise<V>;

/** The answer that was given with a key before; else what becomes of the value now. */
export async function onlyOnce<V>(
  { name }: Plan,
  once: string | undefined,
  records: Records | undefined,
  run: (keep: KeepAnswer) => Promise<V>,
): Promise<V> {
  if (once === undefined) return run(async (verdict) => verdict);
  if (typeof once !== 'string' || once === '') fault(`Intake "${name}": once is a text that the sender repeats with the same request.`);
  const answers = records?.answers;
  if (!answers) fault(`Intake "${name}": once needs the records of a transaction, such as those of serially.`);
  const key = `${name} ${once}`;
  const known = await answers.of(key);
  if (known !== undefined) return JSON.parse(known) as V;
  return run(async (verdict) => {
    const answer = JSON.stringify(verdict, (_, value) => (typeof value === 'bigint' ? numberOf(value) : value));
    await answers.keep(key, answer);
    return JSON.parse(answer);
  });
}

/** JSON has no such numbers; what drivers count in them is small. */
function numberOf(value: bigint): number | string {
  const number = Number(value);
  return Number.isSafeInteger(number) ? number : String(value);
}
