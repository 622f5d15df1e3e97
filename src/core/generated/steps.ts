import type { FieldStep, StepSort } from '../plan/plan.ts';
import type { StepCode } from '../steps/code.ts';
import { groupCode } from '../steps/group.code.ts';
import { listCode } from '../steps/list.code.ts';
import { scalarCode } from '../steps/scalar.code.ts';
import { shapesCode } from '../steps/shapes.code.ts';
import { tableCode } from '../steps/table.code.ts';

// What sorts of steps write stands apart from what they do, so that a page loads it only with the writer.
const CODE: { readonly [N in StepSort['name']]: StepCode<never> } = {
  scalar: scalarCode,
  group: groupCode,
  list: listCode,
  table: tableCode,
  shapes: shapesCode,
};

export const codeOf = (step: FieldStep): StepCode => CODE[step.sort.name] as StepCode;
