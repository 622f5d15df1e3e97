import { Fault, fault } from '../basics/fault.ts';
import type { Circumstances } from '../basics/verdict.ts';
import { UNREADABLE } from '../declared/kind.ts';
import type { FieldStep } from '../plan/plan.ts';
import { typedDefault } from '../run/defaults.ts';

/** A constant default, read as the field reads what is sent, and refused when the field's own rules refuse it. */
export function constantDefault(intake: string, step: FieldStep, raw: unknown): unknown {
  const say = (sentence: string) => fault(`Intake "${intake}": the default ${JSON.stringify(raw)} of "${step.place.path}" ${sentence}`);
  const value = typedDefault(step, raw);
  if (value === UNREADABLE) return say(`is no ${step.kind.name}.`);
  if (value === null) return value;
  for (const { definition, takes, rule, severity, on } of step.checks) {
    if (severity === 'warning' || on) continue;
    try {
      if (definition.check?.(value, takes, NO_CLOCK) === false) say(`is refused by its rule ${rule}.`);
    } catch (cause) {
      // What depends on the clock is seen at each judgement.
      if (cause instanceof Fault) throw cause;
    }
  }
  return value;
}

const noClock = (): never => {
  throw new RangeError('There is no clock while an intake is defined.');
};
/** A rule that asks it anything cannot be settled beforehand. */
const NO_CLOCK: Circumstances = {
  get today() {
    return noClock();
  },
  get now() {
    return noClock();
  },
  get occasion() {
    return noClock();
  },
  get signal() {
    return noClock();
  },
  dayOf: noClock,
  startOf: noClock,
};
