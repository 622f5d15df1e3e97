import { UNREADABLE } from '../kinds/kind.ts';
import { isBlank } from '../text.ts';
import { engineInfo } from './engine-finding.ts';
import { type EntryKey, type FieldStep, type Filling, UNSOUND } from './plan.ts';
import type { Run } from './run.ts';

/** A default is read and judged as what it stands for; when it does not hold, the sender is not to blame. */
export function readDefault(
  run: Run,
  step: FieldStep,
  filledBy: Exclude<Filling, { readonly empty: true }>,
  indexes: readonly EntryKey[],
): unknown {
  try {
    const value = 'call' in filledBy ? typedDefault(step, filledBy.call()) : filledBy.value;
    if (value === null && step.nullAllowed) return null;
    if (value === UNREADABLE) throw new TypeError(`The default of "${step.place.path}" is no ${step.kind.name}.`);
    for (const { definition, takes, rule, severity, on } of step.checks) {
      if (severity === 'warning' || (on && !on.includes(run.settings.occasion))) continue;
      if (definition.check?.(value as never, takes as never, run.at) !== true)
        throw new RangeError(`The default of "${step.place.path}" is refused by its rule ${rule}.`);
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
  if (step.op !== 'scalar') return UNREADABLE;
  let value: unknown = step.kind.json(raw);
  if (value === UNREADABLE) return value;
  for (const clean of step.cleans) value = clean(value);
  return step.isText && !step.blankAllowed && isBlank(value as string) ? UNREADABLE : value;
}
