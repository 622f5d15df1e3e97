import { callPredicate, leaveOpen, type Ready, readyToRun, settle, skip, standAside } from '../loop/cases.ts';
import { guardOf } from '../loop/guard.ts';
import { NOTHING_FOUND } from '../run/case.ts';
import type { Run } from '../run/run.ts';
import { casesOutside } from './cases-outside.ts';
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
