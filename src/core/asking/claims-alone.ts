import type { FieldStep, FieldSteps, GroupStep, ListStep, Plan, ShapesStep } from '../plan/plan.ts';

/**
 * A plan that reads submissions as another does, and of its rules has those that claim something, each without its conditions: it tells what
 * a row may claim, though something that the application has written about it never ends. A value that a rule of its own would refuse is
 * claimed all the same.
 */
export function claimsAlone(plan: Plan): Plan {
  const record = plan.record.filter(({ definition }) => definition.claims).map((use) => ({ ...use, when: [], tells: [] }));
  const fields = withoutChecks(plan.fields);
  return { ...plan, fields, uses: record, record, between: [], outside: [], busy: { when: 'never', count: 0, code: undefined } };
}

function withoutChecks(fields: FieldSteps): FieldSteps {
  return { ...fields, steps: fields.steps.map(bare) };
}

function bare(step: FieldStep): FieldStep {
  const { inner, item, shapes } = step as Partial<GroupStep & ListStep & ShapesStep>;
  const copy = {
    ...step,
    checks: [],
    ...(inner && { inner: withoutChecks(inner) }),
    ...(item && { item: bare(item) }),
    ...(shapes && { shapes: new Map([...shapes].map(([name, one]) => [name, withoutChecks(one)])) }),
  };
  return { ...copy, inside: copy.sort.inside(copy) };
}
