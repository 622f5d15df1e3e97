import { planOf } from './intake.ts';
import { begin } from './judging/judge.ts';
import type { Inputs } from './judging/options.ts';
import type { Question, Records } from './stored/records.ts';

/**
 * The names of what a submission is counted among, for `serially(run, { lock })`: two that have none in common can be stored at the same
 * time. No store is asked for it. A lock that is too wide or too narrow costs time, and no verdict.
 *
 * @param options as those of `judge`; of `records` only the scope is read
 */
export async function locksFor(intake: { readonly name: string }, submission: unknown, options: Inputs = {}): Promise<readonly string[]> {
  const names = new Set<string>();
  const records: Records = {
    ...(options.records?.scope && { scope: options.records.scope }),
    async ask(questions) {
      for (const question of questions) for (const name of namesIn(question)) names.add(name);
      throw new Error('Only looked at for what would be asked.');
    },
  };
  const inputs = { ...options, records };
  const { decideByRecords } = await import('./judging/decide.ts');
  await decideByRecords(begin(planOf(intake), submission, inputs), inputs);
  return [...names].sort();
}

/** What answers with a number is a set of rows, which others may join: those that are alike in what it is asked with. */
function namesIn({ collection, terms, either = [], want, keys }: Question): string[] {
  if (want === 'rows') return [];
  const inGroups = new Set(either.flat(2));
  const alike = [...terms.entries()].filter(
    ([at, { is, than }]) => (is === 'equal' || is === 'ignoringCase') && than === undefined && !inGroups.has(at),
  );
  const columns = alike.map(([, { column }]) => column).join();
  return keys.map((key) => `${collection} ${columns} ${JSON.stringify(alike.map(([at]) => key[at])).toLowerCase()}`);
}
