import { isBlank } from '../basics/text.ts';
import { notAsked } from '../declared/given-back.ts';
import { UNREADABLE } from '../declared/kind.ts';
import type { Filling } from '../declared/rule.ts';
import { type EntryKey, type FieldStep, UNSOUND } from '../plan/plan.ts';
import { engineInfo } from './engine-finding.ts';
import type { Run } from './run.ts';

/** A default is read and judged as what it stands for; when it does not hold, the sender is not to blame. */
export function readDefault(
  run: Run,
  step: FieldStep,
  filledBy: Exclude<Filling, { readonly empty: true }>,
  indexes: readonly EntryKey[],
): unknown {
  try {
    const given = 'call' in filledBy ? filledBy.call() : filledBy.value;
    const value = 'call' in filledBy ? typedDefault(step, given) : given;
    if (value === null && step.nullAllowed) return null;
    if (value === UNREADABLE) throw notAsked(`The default of "${step.place.path}"`, given, `a value of kind ${step.kind.name}`);
    for (const { definition, takes, rule, severity, on } of step.checks) {
      if (severity === 'warning' || (on && !on.includes(run.settings.occasion))) continue;
      const answer = definition.check?.(value, takes, run.at);
      if (typeof answer !== 'boolean') throw notAsked(`Rule "${rule}"`, answer, 'true or false');
      if (!answer) throw new RangeError(`The default of "${step.place.path}" is refused by its rule ${rule}.`);
    }
    return value;
  } catch (cause) {
    run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
    return UNSOUND;
  }
}

/** A default by the field's own kind, and cleaned. */
export function typedDefault(step: FieldStep, raw: unknown): unknown {
  if (raw === null && step.nullAllowed) return null;
  if (step.sort.isMade) return UNREADABLE;
  let value: unknown = step.kind.json(raw);
  if (value === UNREADABLE) return value;
  for (const { apply } of step.cleans) value = apply(value) ?? UNREADABLE;
  return step.kind.isText && !step.blankAllowed && isBlank(value as string) ? UNREADABLE : value;
}
