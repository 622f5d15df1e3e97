import { planOf } from '../core/intake.ts';
import type { FieldStep, ValueCheck } from '../core/plan/plan.ts';
import { circumstancesAt } from '../core/plan/run.ts';
import { type Bound, resolveBound } from '../core/rules/relative.ts';
import { segmentsOf, stepsAt } from './steps-at.ts';

/** Attributes of an HTML control (WHATWG HTML, 4.10.5) that say to the browser what the intake says. */
export interface ControlAttributes {
  readonly type?: string;
  readonly required?: true;
  readonly minlength?: number;
  readonly maxlength?: number;
  readonly min?: string;
  readonly max?: string;
  readonly step?: string;
  readonly pattern?: string;
  readonly inputmode?: string;
  readonly accept?: string;
  readonly multiple?: true;
}

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
  const [{ step, isInShape } = {}] = found;
  if (!step || step.op === 'group' || step.op === 'shapes') return {};
  const at = circumstancesAt(now, plan.zone ?? 'UTC');
  const attributes: Writable = { ...TYPES[step.kind.name] };
  // Without a zone nobody can tell which moment is meant.
  if (step.kind.name === 'moment' && plan.zone !== undefined) attributes.type = 'datetime-local';
  // One name may stand in several shapes: what is secret in one of them is never shown.
  if (found.some((each) => each.step.place.isSecret)) attributes.type = 'password';
  // Of shapes one is there, and a browser cannot know which.
  if (!isInShape && isRequired(step) && !(amends && (step.place.isSecret || step.isLeftOut))) attributes.required = true;
  if (step.op === 'list') attributes.multiple = true;
  else
    for (const check of step.checks)
      if (check.severity === 'error' && !check.on) Object.assign(attributes, FROM_RULES[check.rule]?.(check, at));
  if (attributes.type === 'password') delete attributes.pattern;
  if (amends) for (const limit of ['min', 'max', 'minlength', 'pattern'] as const) delete attributes[limit];
  return attributes;
}

type Writable = { -readonly [N in keyof ControlAttributes]: ControlAttributes[N] };
type At = Parameters<typeof resolveBound>[1];

function isRequired(step: FieldStep): boolean {
  if (step.op === 'list' || !step.needed) return false;
  // A check box that is needed may be unticked, unless it has to be true.
  if (step.kind.is.includes('flag')) return step.checks.some(({ rule, severity, on }) => rule === 'is-true' && severity === 'error' && !on);
  return !(step.op === 'scalar' && step.blankAllowed);
}

const TYPES: { readonly [kind: string]: ControlAttributes } = {
  day: { type: 'date' },
  time: { type: 'time' },
  flag: { type: 'checkbox' },
  upload: { type: 'file' },
  whole: { inputmode: 'numeric' },
  decimal: { inputmode: 'decimal' },
  exact: { inputmode: 'decimal' },
};

const takes = <T>({ takes: given }: ValueCheck) => given as T;

const FROM_RULES: { readonly [rule: string]: (check: ValueCheck, at: At) => ControlAttributes } = {
  length(check) {
    const { min, max } = takes<{ min?: number; max?: number }>(check);
    return { ...(min !== undefined && { minlength: min }), ...(max !== undefined && { maxlength: max }) };
  },
  pattern(check) {
    const { source, flags } = takes<{ expression: RegExp }>(check).expression;
    // Browsers compile it with the flag v, and match the whole text.
    if (flags !== '' || !/^\^.*\$$/s.test(source) || !isPattern(source)) return {};
    return { pattern: source.slice(1, -1) };
  },
  email: () => ({ type: 'email' }),
  phone: () => ({ type: 'tel' }),
  'web-address': () => ({ type: 'url' }),
  'not-before': (check, at) => ({ min: resolveBound(takes<{ bound: Bound }>(check).bound, at) }),
  'not-after': (check, at) => ({ max: resolveBound(takes<{ bound: Bound }>(check).bound, at) }),
  'years-old': (check, at) => ({ max: resolveBound({ relative: 'yearsBeforeToday', by: takes<{ years: number }>(check).years }, at) }),
  'media-types': (check) => ({ accept: takes<{ types: readonly string[] }>(check).types.join() }),
};

function isPattern(source: string): boolean {
  // Alternatives at the top would be anchored otherwise.
  if (/\|/.test(source.replaceAll(/\(.*\)|\[.*\]/g, ''))) return false;
  try {
    new RegExp(source, 'v');
    return true;
  } catch {
    return false;
  }
}
