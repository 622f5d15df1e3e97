import { type Case, callPredicate, eachCase, leaveOpen, type Ready, readyToRun, settle, skip, standAside } from './evaluate.ts';
import { guardOf, NOTHING_FOUND } from './guard.ts';
import type { Run } from './run.ts';
import { TimeLimit } from './time-limit.ts';

// Step 7 of a judgement: checks that ask something outside. They come last, and only if nothing failed.

/** Runs the outside checks side by side, each within its own time limit: those that waited for records, and the others. */
export async function askOutside(run: Run, waited: readonly Ready[]): Promise<void> {
  if (run.hasErrors) for (const { item } of waited) skip(run, item, 'already-failed');
  const ready = run.hasErrors ? [] : [...waited];
  for (const item of casesOutside(run)) {
    const read = readyToRun(run, item);
    if (!read) continue;
    const guard = guardOf(run, item, () => NOTHING_FOUND);
    if (guard === 'holds') ready.push({ item, read, found: NOTHING_FOUND.found });
    else standAside(run, item, guard);
  }
  await Promise.all(ready.map((each) => askOne(run, each)));
}

/** The cases of the outside checks that need no records; none once something failed. */
export function casesOutside(run: Run): Case[] {
  const cases: Case[] = [];
  for (const use of run.plan.outside) {
    eachCase(run, use, (item) => {
      if (run.hasErrors) skip(run, item, 'already-failed');
      else cases.push(item);
    });
  }
  return cases;
}

async function askOne(run: Run, { item, read, found }: Ready): Promise<void> {
  const limit = new TimeLimit(item.use.definition.within as number, run.settings.signal);
  try {
    const answer = callPredicate(item, read, found, run.at.under(limit.signal));
    settle(run, item, read, found, answer instanceof Promise ? await limit.race(answer) : answer);
  } catch (cause) {
    leaveOpen(run, item, limit.why ?? 'fault', cause);
  } finally {
    limit.end();
  }
}
