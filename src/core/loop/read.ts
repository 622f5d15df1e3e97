import { addEngineFinding } from '../run/engine-finding.ts';
import { isObject, NO_OBJECT, ROOT } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { markUnsound } from '../run/unsound.ts';
import { readFields } from '../steps/reading.ts';

// Steps 1 to 4 of a judgement: presence, kind, cleaning, value rules. Every key of the submission is read exactly once,
// here, and nothing looks at the submission afterwards.

/** Reads a whole submission into the run's frame. */
export function readSubmission(run: Run, submission: unknown): void {
  if (isObject(submission)) {
    if (run.code) run.code.read(run, submission, run.frame);
    else readFields(run, run.plan.fields, submission, run.frame, []);
  } else {
    addEngineFinding(run, 'readable', [{ place: ROOT, indexes: [] }], NO_OBJECT);
    markUnsound(run.plan.fields.steps, run.frame);
  }
}

/** Reads what the application supplies. It is never read from the submission. */
export function readGiven(run: Run, given: unknown): void {
  readFields(run, run.plan.given, isObject(given) ? given : {}, run.frame, []);
}
