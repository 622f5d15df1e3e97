import type { Plan } from '../plan/plan.ts';
import type { Code } from '../run/run.ts';
import { HELPERS } from './helpers.ts';
import { write } from './writer.ts';

let written = 0;
/** The environment has refused once: it is not asked again, since browsers report every attempt. */
let isRefused = false;

/** Code for a plan; `undefined` where the environment allows none (a content security policy without `unsafe-eval`). */
export function generate(plan: Plan): Code | undefined {
  if (isRefused) return undefined;
  try {
    return new Function('L', 'plan', write(plan, ++written))(HELPERS, plan) as Code;
  } catch (cause) {
    if (!(cause instanceof EvalError)) throw cause;
    isRefused = true;
    return undefined;
  }
}
