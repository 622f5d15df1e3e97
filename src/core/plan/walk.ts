import type { FieldStep, FieldSteps } from './plan.ts';

/** Visits every step of a plan's fields, in declared order, what holds others before what it holds. */
export function walkSteps(fields: Pick<FieldSteps, 'steps'>, visit: (step: FieldStep) => void): void {
  for (const step of fields.steps) walkStep(step, visit);
}

/** Visits a step, and every one inside it. */
export function walkStep(step: FieldStep, visit: (step: FieldStep) => void): void {
  visit(step);
  for (const inside of step.inside) walkSteps(inside, visit);
}
