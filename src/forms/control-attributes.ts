import type { ControlAttributes } from '../core/declared/kind.ts';
import { planOf } from '../core/intake.ts';
import type { FieldStep } from '../core/plan/plan.ts';
import { circumstancesAt } from '../core/run/clock.ts';
import { segmentsOf } from './names.ts';
import { stepsAt } from './steps-at.ts';

/**
 * The native constraints of a field's control, none of them stricter than the intake, but for `maxlength`, which browsers
 * count in UTF-16 units.
 *
 * @param pointer of the field, `/crew/0/born`; a name of a control as a pointer
 * @param options `now`: the moment that relative bounds are worked out from; `amends`: the form changes what is stored, so
 *   that an empty secret keeps it, a repetition is needed only then, and what stands there may be older than the rules
 */
export function controlAttributes(
  intake: { readonly name: string },
  pointer: string,
  { now = new Date(), amends = false }: { readonly now?: Date; readonly amends?: boolean } = {},
): ControlAttributes {
  const plan = planOf(intake);
  const found = stepsAt(plan.fields, segmentsOf(pointer));
  const [{ step, isConditional } = {}] = found;
  if (!step || step.sort.isSentInParts) return {};
  const at = circumstancesAt(now, plan.zone ?? 'UTC');
  const attributes: Writable = { ...step.kind.control?.(plan.zone) };
  if (isRequired(step)) attributes.required = true;
  if (step.sort.isMade) attributes.multiple = true;
  else
    for (const { definition, takes, severity, on } of step.checks)
      if (severity === 'error' && !on) Object.assign(attributes, definition.control?.(takes, at));
  // One name may stand in several shapes: what is secret in one of them is never shown.
  if (found.some((each) => each.step.place.isSecret)) attributes.type = 'password';
  // Of shapes one is there, and a blank row may not be: a browser cannot know.
  if (isConditional || (amends && (step.place.isSecret || step.isLeftOut))) delete attributes.required;
  if (attributes.type === 'password') delete attributes.pattern;
  if (amends) for (const limit of ['min', 'max', 'minlength', 'pattern'] as const) delete attributes[limit];
  return attributes;
}

type Writable = { -readonly [N in keyof ControlAttributes]: ControlAttributes[N] };

/** A check box that is needed may be unticked, unless a rule says that it must not. */
function isRequired(step: FieldStep): boolean {
  return !step.sort.isMade && step.needed && !step.blankAllowed && step.kind.unsent === undefined;
}
