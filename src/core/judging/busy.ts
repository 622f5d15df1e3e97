import type { Plan } from '../plan/plan.ts';
import type { Code } from '../run/run.ts';

/** Judgements after which an intake is busy: writing its code pays back. */
const OFTEN = 200;

/** The code for a plan, once it has been judged often enough; what writes it is loaded then. */
export function codeOf(plan: Plan): Code | undefined {
  const { busy } = plan;
  if (busy.code === undefined && busy.when !== 'never' && ++busy.count === OFTEN) void writeCode(plan);
  return busy.code as Code | undefined;
}

/** Writes the code of a plan. Where none can be made the loop goes on, which is what code does too. */
export async function writeCode(plan: Plan): Promise<void> {
  const { generate } = await import('../generated/generate.ts');
  plan.busy.code = generate(plan);
}
