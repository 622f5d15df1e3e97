import { fault, nearest } from '../basics/fault.ts';
import { kindOf } from '../basics/known.ts';
import type { Texts } from '../basics/text.ts';
import type { AnyField, Fields } from '../declared/field.ts';
import { valueGiven } from '../declared/given-back.ts';
import { fits, type KindSpec } from '../declared/kind.ts';
import type { BoundSpec, CleanSpec, FieldSpec, ShapeSpec, UseSpec } from '../declared/rule.ts';
import { specOf } from '../kinds/field.ts';
import {
  type CleanStep,
  ENTRY,
  type FieldStep,
  type FieldSteps,
  type GroupStep,
  type Holder,
  type ListStep,
  type PlaceSpec,
  type ScalarStep,
  type ShapesStep,
  type ValueCheck,
} from '../plan/plan.ts';
import { scalar } from '../steps/scalar.ts';
import { constantDefault } from './constant-default.ts';
import { checkLanguages, type Languages, labelOf, optionOf } from './languages.ts';

/** Entries of a list that declares no larger `length`: more are a finding `too-many`, and are not read. */
const MOST_ENTRIES = 10_000;
/** Entries that one judgement reads and hands to rules in all, unless a declared `length` allows more. */
const BUDGET = 1_000_000;

/** A field as rules can be bound to it. */
export interface Target {
  readonly step: FieldStep;
  readonly place: PlaceSpec;
  readonly isGiven: boolean;
  /** The lists around it, outermost first. */
  readonly lists: readonly ListStep[];
  /** The groups and shapes that it stands in, from its frame on. */
  readonly holders: readonly Holder[];
  /** Those that the outermost list around it stands in. */
  readonly outerHolders: readonly Holder[];
}

/** A rule bound inside a group, with the path of the group. */
export interface Placed {
  readonly bound: BoundSpec;
  readonly prefix: string;
}

/** Where a field stands while the fields are laid out. */
interface Home {
  readonly path: string;
  readonly segments: PlaceSpec['segments'];
  readonly lists: readonly ListStep[];
  readonly holders: readonly Holder[];
  readonly outerHolders: readonly Holder[];
  readonly isSecret: boolean;
  readonly isGiven: boolean;
  readonly secretNames: number;
  readonly entryLabels: readonly (Texts | undefined)[];
  /** Counts the slots of the frame. */
  readonly frame: { size: number };
}

interface Draft {
  readonly intake: string;
  readonly languages: Languages;
  readonly targets: Map<string, Target>;
  readonly placed: Placed[];
  readonly checkOf: (use: UseSpec, place: PlaceSpec) => ValueCheck | undefined;
}

export interface Layout {
  readonly fields: FieldSteps;
  readonly given: FieldSteps;
  readonly size: number;
  readonly budget: number;
  readonly targets: ReadonlyMap<string, Target>;
  /** Rules of groups, and value rules that need records or something outside. */
  readonly placed: readonly Placed[];
}

/** Gives every field its slot and its place. */
export function layOut(intake: string, fields: Fields, languages: Languages, checkOf: Draft['checkOf']): Layout {
  const draft: Draft = { intake, languages, targets: new Map(), placed: [], checkOf };
  const frame = { size: 0 };
  const home: Home = {
    path: '',
    segments: [],
    lists: [],
    holders: [],
    outerHolders: [],
    isSecret: false,
    isGiven: false,
    secretNames: 0,
    entryLabels: [],
    frame,
  };
  const all = stepsOf(draft, fields, home, undefined);
  checkLanguages(intake, languages, [...draft.targets.keys()]);
  const part = (isGiven: boolean): FieldSteps => {
    const steps = all.steps.filter((step) => draft.targets.get(step.key)?.isGiven === isGiven);
    return { steps, keys: new Set(steps.map((step) => step.key)), home: undefined };
  };
  const lists = [...draft.targets.values()].map(({ step }) => step.most);
  const budget = Math.max(BUDGET, 10 * Math.max(0, ...lists));
  return { fields: part(false), given: part(true), size: frame.size, budget, targets: draft.targets, placed: draft.placed };
}

function stepsOf(draft: Draft, fields: Fields, home: Home, place: PlaceSpec | undefined): FieldSteps {
  const names = Object.keys(fields);
  const steps = names.map((name) => {
    if (name === '' || name === '__proto__' || /[.*[\]]/.test(name)) {
      fault(`Intake "${draft.intake}": "${name}" cannot name a field; names have no dot, star or bracket, and are not "__proto__".`);
    }
    return stepOf(draft, name, fields[name] as AnyField, home, home.path === '' ? name : `${home.path}.${name}`);
  });
  return { steps, keys: new Set(names), home: place };
}

function stepOf(draft: Draft, key: string, field: AnyField, home: Home, path: string): FieldStep {
  const spec = specOf(field, path);
  if (spec.isGiven && home.path !== '')
    fault(`Intake "${draft.intake}": "${path}" is given, but stands inside "${home.path}"; only a whole field of the intake can be given.`);
  const place: PlaceSpec = {
    path,
    segments: [...home.segments, key === '*' ? ENTRY : key],
    label: labelOf(spec.label, path, draft.languages),
    order: draft.targets.size,
    isSecret: home.isSecret || spec.isSecret,
    holdsSecret: home.isSecret || holdsSecret(spec),
    secretNames: home.secretNames,
    ...(home.entryLabels.some((words) => words !== undefined) && { entryLabels: home.entryLabels }),
  };
  const { isSecret, segments } = place;
  const isInSecretTable = isSecret && spec.each !== undefined && home.secretNames === 0;
  const secretNames = isInSecretTable ? home.lists.length + 1 : home.secretNames;
  const around: Home = { ...home, path, segments, isSecret, isGiven: home.isGiven || spec.isGiven, secretNames };
  // A target is registered before what is inside it, so that the order is the declared one.
  const target = {
    place,
    isGiven: around.isGiven,
    lists: home.lists,
    holders: home.holders,
    outerHolders: home.outerHolders,
    step: undefined as unknown as FieldStep,
  };
  draft.targets.set(path, target);
  const step = build(draft, key, spec, home, around, place);
  target.step = step;
  return step;
}

/** Whether a field is secret, or something inside it. */
function holdsSecret({ isSecret, fields, item, each, shapes }: FieldSpec): boolean {
  const inside = [item, each, ...Object.values(fields ?? {}), ...Object.values(shapes ?? {}).flatMap((one) => Object.values(one.fields))];
  return isSecret || inside.some((field) => field !== undefined && holdsSecret(specOf(field, 'field')));
}

/** Everything that some step has. */
type AnyStep = { -readonly [P in keyof ScalarStep | keyof GroupStep | keyof ListStep | keyof ShapesStep]: unknown };

function build(draft: Draft, key: string, spec: FieldSpec, home: Home, around: Home, place: PlaceSpec): FieldStep {
  const { presence } = spec;
  const slot = home.frame.size++;
  const checks = checksOf(draft, spec, place);
  const inside = spec.item ?? spec.each;
  const frame = { size: 0 };
  // One literal for all, whatever the step is: the engine then reads every step the same fast way.
  const step: AnyStep = {
    sort: spec.kind.step ?? scalar,
    key,
    slot,
    kind: inLanguages(spec.kind, place.path, draft.languages),
    place,
    needed: presence === 'needed',
    filledBy: typeof presence === 'object' ? presence : undefined,
    nullAllowed: spec.nullAllowed,
    isLeftOut: spec.isLeftOut,
    checks,
    blankAllowed: spec.blankAllowed,
    cleans: spec.steps.flatMap((each) => (each.type === 'clean' ? [cleanOf(each, spec.kind, place.path)] : [])),
    dropsBlankRows: spec.dropsBlankRows === true,
    most: inside ? mostOf(checks) : 0,
    tag: spec.tag,
    inside: undefined,
    inner: undefined,
    shapes: undefined,
    item: undefined,
    size: 0,
  };
  if (spec.fields) {
    for (const bound of spec.rules ?? []) draft.placed.push({ bound, prefix: `${place.path}.` });
    const holders = [...home.holders, { step: step as unknown as GroupStep }];
    step.inner = stepsOf(draft, spec.fields, { ...around, holders }, place);
  } else if (spec.tag !== undefined && spec.shapes) {
    step.shapes = shapesOf(draft, spec.shapes, step as unknown as ShapesStep, around, place);
  } else if (inside) {
    const lists = [...home.lists, step as unknown as ListStep];
    step.item = stepOf(
      draft,
      '*',
      inside,
      {
        ...around,
        lists,
        holders: [],
        outerHolders: home.lists.length === 0 ? home.holders : home.outerHolders,
        entryLabels: [...home.entryLabels, spec.entryLabel],
        frame,
      },
      `${place.path}.*`,
    );
    step.size = frame.size;
  }
  const built = step as unknown as FieldStep;
  step.inside = built.sort.inside(built);
  if (built.filledBy && 'value' in built.filledBy) step.filledBy = { value: constantDefault(draft.intake, built, built.filledBy.value) };
  return built;
}

/** A cleaning step; what one of the application's gives is looked at. */
function cleanOf({ name, apply, isOurs }: CleanSpec, kind: KindSpec, path: string): CleanStep {
  const written = apply as CleanStep['apply'];
  if (isOurs) return { name, apply: written, isOurs };
  return { name, apply: (value) => valueGiven(kind, written(value), `Cleaning step "${name}" of "${path}"`), written };
}

/** A kind whose options have words in the intake's languages. */
function inLanguages(kind: KindSpec, path: string, languages: Languages): KindSpec {
  const { options } = kind.facts ?? {};
  const words = kind.words?.options;
  if (!options || !words || Object.values(languages).every((language) => !language.options?.[path])) return kind;
  return { ...kind, words: { options: options.map((option, index) => optionOf(words[index] as Texts, option, path, languages)) } };
}

/** The fields of each shape stand in the frame of what holds the shapes; only their paths carry the shape's name. */
function shapesOf(
  draft: Draft,
  shapes: { readonly [name: string]: ShapeSpec },
  step: ShapesStep,
  around: Home,
  place: PlaceSpec,
): Map<string, FieldSteps> {
  return new Map(
    Object.entries(shapes).map(([name, { fields, rules }]) => {
      const path = `${place.path}.${name}`;
      for (const bound of rules) draft.placed.push({ bound, prefix: `${path}.` });
      const holders = [...around.holders, { step, shape: name }];
      const { steps, keys } = stepsOf(draft, fields, { ...around, path, holders }, place);
      return [name, { steps, keys: new Set([...keys, step.tag]), home: place }];
    }),
  );
}

function checksOf(draft: Draft, spec: FieldSpec, place: PlaceSpec): ValueCheck[] {
  const checks: ValueCheck[] = [];
  const misplaced = (name: string, why: string): never => fault(`Intake "${draft.intake}", field "${place.path}": ${name} ${why}`);
  for (const step of spec.steps) {
    if (step?.type === 'clean') {
      if (!step.kinds.some((kind) => spec.kind.is.includes(kind)))
        misplaced(step.name, `cleans ${step.kinds.join(' or ')}, and this is ${spec.kind.name}.`);
      continue;
    }
    if (step?.type !== 'use')
      misplaced(
        kindOf(step),
        typeof step === 'function'
          ? 'stands among its rules; call it, as in length({ … }) or trim().'
          : 'is neither a value rule nor a cleaning step.',
      );
    const { rule } = step;
    if ('when' in step.options)
      misplaced(
        rule.id,
        "has a condition (`when`), which a rule in a field's own list cannot have; write a rule of several roles among the rules of the intake.",
      );
    if (!rule.check || rule.reads.field === undefined) misplaced(rule.id, 'reads several roles; bind it among the rules of the intake.');
    const role = rule.reads.field as NonNullable<typeof rule.reads.field>;
    if (!fits(role, spec.kind)) misplaced(rule.id, `is a rule for ${role.spec.name}, and this is ${spec.kind.name}.`);
    if (rule.how === 'holds' && Object.keys(rule.looksUp).length === 0) {
      const takes = rule.forField?.(step.takes, spec, (sentence) => misplaced(`${rule.id}:`, sentence)) ?? step.takes;
      const check = draft.checkOf({ ...step, takes }, place);
      if (check) checks.push(check);
    } else draft.placed.push({ bound: { ...step, roles: { field: place.path } }, prefix: '' });
  }
  return checks;
}

function mostOf(checks: readonly ValueCheck[]): number {
  // Only what counts entries says how many there may be.
  const declared = checks.filter(({ definition }) => definition.countsOnly).map((check) => (check.takes as { max?: unknown }).max);
  return Math.max(MOST_ENTRIES, ...declared.filter((max) => typeof max === 'number'));
}

/** The field at a path, or a fault that names the nearest one. */
export function targetOf(layout: Layout, intake: string, path: string, who: string): Target {
  return (
    layout.targets.get(path) ??
    fault(`Intake "${intake}": ${who} is bound to "${path}", which is no field; ${nearest(path, [...layout.targets.keys()])}`)
  );
}
