import type { FieldStep, StepSort } from '../plan/plan.ts';
import type { StepChange } from '../steps/changing.ts';
import { groupChange } from '../steps/group.changes.ts';
import { listChange } from '../steps/list.changes.ts';
import { scalarChange } from '../steps/scalar.changes.ts';
import { shapesChange } from '../steps/shapes.changes.ts';
import { tableChange } from '../steps/table.changes.ts';

// What a change does to sorts of steps stands apart from what they do, so that a page loads it only when something is amended.
const CHANGES: { readonly [N in StepSort['name']]: StepChange<never> } = {
  scalar: scalarChange,
  group: groupChange,
  list: listChange,
  table: tableChange,
  shapes: shapesChange,
};

export const changeOf = (step: FieldStep): StepChange => CHANGES[step.sort.name] as StepChange;
