import type { FieldStep, FieldSteps } from './plan.ts';

/** Visits every step of a plan's fields, in declared order, what holds others before what it holds. */
export function walkSteps(fields: FieldSteps, visit: (step: FieldStep) => void): void {
  for (const step of fields.steps) walkStep(step, visit);
}

/** Visits a step, and every one inside it. */
export function walkStep(step: FieldStep, visit: (step: FieldStep) => void): void {
  visit(step);
  if (step.op === 'group') walkSteps(step.inner, visit);
  if (step.op === 'shapes') for (const fields of step.shapes.values()) walkSteps(fields, visit);
  if (step.op === 'list') walkStep(step.item, visit);
}
