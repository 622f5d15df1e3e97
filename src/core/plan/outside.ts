import { type Case, callPredicate, eachCase, guardOf, leaveOpen, NOTHING_FOUND, readyToRun, settle, skip, standAside } from './evaluate.ts';
import type { Run } from './run.ts';
import { TimeLimit } from './time-limit.ts';

// Step 7 of a judgement: checks that ask something outside. They come last, and only if nothing failed.

/** Runs the outside checks side by side, each within its own time limit. */
export async function askOutside(run: Run): Promise<void> {
  const waiting: Promise<void>[] = [];
  for (const use of run.plan.outside) {
    eachCase(run, use, (item) => {
      if (run.hasErrors) return skip(run, item, 'already-failed');
      waiting.push(askOne(run, item));
    });
  }
  await Promise.all(waiting);
}

async function askOne(run: Run, item: Case): Promise<void> {
  const read = readyToRun(run, item);
  if (!read) return;
  const guard = guardOf(run, item, () => NOTHING_FOUND);
  if (guard !== 'holds') return standAside(run, item, guard);
  const limit = new TimeLimit(item.use.definition.within as number, run.settings.signal);
  try {
    const answer = callPredicate(item, read, {}, run.at.under(limit.signal));
    settle(run, item, read, {}, answer instanceof Promise ? await limit.race(answer) : answer);
  } catch (cause) {
    leaveOpen(run, item, limit.why ?? 'fault', cause);
  } finally {
    limit.end();
  }
}
