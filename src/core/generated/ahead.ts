import { fault } from '../basics/fault.ts';
import { literal } from '../basics/source.ts';
import { fingerprintOfPlan } from '../plan/inspect.ts';
import type { Plan } from '../plan/plan.ts';
import { FORM } from './form.ts';
import { HELPERS } from './helpers.ts';
import { write } from './writer.ts';

// Code that was written ahead of time, for where none may be made (a content security policy), or should be there at once.

/** What `jestril compile` writes of an intake. */
export interface WrittenCode {
  readonly intake: string;
  readonly form: string;
  readonly fingerprint: string;
  /** The code itself. */
  readonly code: (helpers: never, plan: never) => object;
}

/** The code of a plan as an expression, for a module. */
export function writtenOf(plan: Plan): string {
  return `{
intake: ${literal(plan.name)},
form: ${literal(FORM)},
fingerprint: ${literal(fingerprintOfPlan(plan))},
code(L, plan) {
${write(plan)}
},
}`;
}

/** Has a plan judged by code that was written ahead of time, or throws a `Fault` where it is of another plan, or of another version. */
export function useWritten(plan: Plan, written: WrittenCode): void {
  const again = 'run jestril compile again';
  if (written.intake !== plan.name) fault(`withCode: this is the code of "${written.intake}", and not of "${plan.name}".`);
  if (written.form !== FORM) fault(`withCode: another version of Jestril wrote the code of "${plan.name}"; ${again}.`);
  if (written.fingerprint !== fingerprintOfPlan(plan)) fault(`withCode: "${plan.name}" has changed since its code was written; ${again}.`);
  plan.busy.code = written.code(HELPERS as never, plan as never);
}
