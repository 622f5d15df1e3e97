import { addDays, type Day } from '../core/basics/days.ts';
import type { LookUpSpec } from '../core/declared/look-up.ts';
import type { Definition } from '../core/declared/rule.ts';
import { bySort } from '../core/plan/by-sort.ts';
import { leavesOf } from '../core/plan/leaves.ts';
import type { FieldStep, ListStep, LookUpPlan, RolePlan, ShapesStep, UsePlan } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import type { Material } from './material.ts';
import { copyOf, lookUpName, putAt, type Situation, valueAt } from './situation.ts';

/** One thing changed in a situation; `undefined` where it cannot be. */
export type Move = (from: Situation) => Situation | undefined;

type Aim = 'mend' | 'break';
type Sample = { readonly [name: string]: unknown };

/**
 * What could be changed so that a use holds, or fails: its samples, the values of its fields, what it is told of the store.
 *
 * @param kept paths of fields that stay as they are
 */
export function movesFor(material: Material, use: string, from: Situation, aim: Aim, kept: ReadonlySet<string> = new Set()): Move[] {
  const plan = material.plan.uses.find((each) => each.use === use);
  if (plan) return movesOfUse(material, plan, from, aim, kept);
  const moves: Move[] = [];
  for (const part of [material.plan.fields, material.plan.given])
    walkSteps(part, (step) => {
      const isOwn = step.checks.some((check) => check.use === use) || use.slice(use.indexOf('@') + 1) === step.place.path;
      if (isOwn && !kept.has(step.place.path)) moves.push(...movesOfStep(material, step, aim));
    });
  return moves;
}

function movesOfUse(material: Material, plan: UsePlan, from: Situation, aim: Aim, kept: ReadonlySet<string>): Move[] {
  const conditions = plan.when.flatMap(leavesOf);
  const isFree = (role: RolePlan) => !(role.entry ? role.entry.roles : [role]).some(({ place }) => kept.has(place.path));
  const roles = [...plan.roles, ...conditions.flatMap((condition) => condition.roles)].filter(isFree);
  const lookUps = [...plan.lookUps, ...conditions.flatMap((condition) => condition.lookUps)];
  const samples = samplesOf(plan.definition);
  const wanted = aim === 'mend' ? samples.holds : samples.fails;
  return [
    ...(plan.roles.every(isFree) ? wanted.map((sample) => bySample(material, plan, sample)) : []),
    ...lookUps.flatMap((lookUp) => movesOfStore(material, lookUp)),
    ...roles.flatMap((role) =>
      (role.entry ? role.entry.roles : [role]).flatMap((each) => [...copies(roles, each), ...movesOfStep(material, each.step, aim, each)]),
    ),
    ...byParameters(material, plan.takes, roles, from),
    ...roles.flatMap((role) => (role.entry ? countMoves(material, role.entry.lists[0]) : [])),
    ...roles.flatMap((role) => shapeMoves(material, role)),
    ...lookUps.flatMap((lookUp) => fromRows(material, roles, lookUp, from)),
  ];
}

function samplesOf(definition: Definition): { readonly holds: readonly Sample[]; readonly fails: readonly Sample[] } {
  const { holds = [], fails = [] } = (definition as { samples?: { holds?: readonly Sample[]; fails?: readonly Sample[] } }).samples ?? {};
  return { holds, fails };
}

/** Puts a value where a field is, in the submission or among what is given. */
function put(material: Material, situation: Situation, step: FieldStep, value: unknown): boolean {
  const isGiven = material.plan.given.keys.has(step.place.segments[0] as string);
  return putAt(isGiven ? situation.given : situation.submission, step.place, value);
}

function changed(material: Material, step: FieldStep, value: unknown): Move {
  return (from) => {
    const next = copyOf(from);
    return put(material, next, step, value) ? next : undefined;
  };
}

/** A field with a value of its own, without one, and with one that its own rules refuse. */
function movesOfStep(material: Material, step: FieldStep, aim: Aim, role?: RolePlan): Move[] {
  const taken = changed(material, step, undefined);
  const filled = () => [taken, changed(material, step, material.valueOf(step))];
  const counted = (list: ListStep) => [...countMoves(material, list), ...(list.needed ? [] : filled())];
  return bySort(step, {
    scalar: (scalar) => {
      const { good, odd, untidy } = material.valuesOf(scalar);
      // A rule between fields is broken by values that each field accepts by itself.
      const values = aim === 'mend' || role ? good : [...odd, ...good, ...untidy];
      return [...values.map((value) => changed(material, step, value)), taken];
    },
    group: filled,
    list: counted,
    table: counted,
    shapes: (shapes) => shapeMoves(material, { step: shapes } as RolePlan),
  });
}

/** The value of one field in another: what has to be the same, or must not be. */
function copies(roles: readonly RolePlan[], to: RolePlan): Move[] {
  return roles
    .filter((role) => role !== to && !role.entry && !role.step.sort.isMade && !to.step.sort.isMade)
    .map((role) => (from) => {
      const next = copyOf(from);
      const value = valueAt(from.submission, role.place);
      return value !== undefined && putAt(next.submission, to.place, value) ? next : undefined;
    });
}

/** Lists of other lengths, and with an entry that repeats another. */
function countMoves(material: Material, step: ListStep | undefined): Move[] {
  if (!step) return [];
  const sizes = step.checks.flatMap(({ definition, takes }) => {
    const { sizes: turns = [] } = definition.edges?.(takes, material.at) ?? {};
    return turns.flatMap((size) => [size, size + 1, size - 1]);
  });
  const counts = [...new Set([0, 1, 2, ...sizes])].filter((count) => count >= 0 && count <= 300);
  const examples = step.checks.flatMap(({ definition, takes }) => definition.examples?.(takes, material.at) ?? []);
  return [
    ...examples.map((value) => changed(material, step, value)),
    ...counts.map((count) => changed(material, step, entriesOf(material, step, count))),
  ];
}

function entriesOf(material: Material, step: ListStep, count: number): unknown {
  const { item } = step;
  const values = item.sort.isMade ? [] : material.valuesOf(item).good;
  return material.entriesOf(step, count, (at) => (values.length > 0 ? values[at % values.length] : material.valueOf(item)));
}

/** The other shapes that something could have. */
function shapeMoves(material: Material, { step }: RolePlan): Move[] {
  const steps: ShapesStep[] = [];
  walkSteps(material.plan.fields, (each) => {
    const shapes = each.inside.filter(({ shape }) => shape !== undefined);
    if (shapes.length > 0 && (each === step || shapes.some((fields) => holds(fields.steps, step)))) steps.push(each as ShapesStep);
  });
  return steps.flatMap((each) =>
    [...each.shapes].map(([name, fields]) => changed(material, each, { [each.tag]: name, ...material.objectOf(fields) })),
  );
}

function holds(steps: readonly FieldStep[], wanted: FieldStep): boolean {
  return steps.some((step) => step === wanted || (step.sort.isOpen && step.inside.some((inner) => holds(inner.steps, wanted))));
}

/** The row of a collection, another one, or none; or how many there are. */
function movesOfStore(material: Material, { spec }: LookUpPlan): Move[] {
  const all = (look: LookUpSpec): LookUpSpec[] => [look, ...Object.values(look.inner).flatMap(all)];
  return all(spec).flatMap((look): Move[] => {
    const { collection, form } = look;
    if (form.want !== 'rows')
      return [0, 1, 2, 3, 5, 10, 100, 1_000_000].map((number) => (from) => ({
        ...from,
        store: { ...from.store, numbers: { ...from.store.numbers, [lookUpName(look)]: number } },
      }));
    const rows = [...Array.from({ length: 4 }, (_, variant) => material.rowOf(collection, variant)), undefined];
    return [...rows.map((row) => withRow(collection.name, row)), ...columnMoves(material, look)];
  });
}

/** Values that the parameters name: of a number they themselves and what is beside them, of a day so many days from another field's. */
function byParameters(material: Material, takes: UsePlan['takes'], roles: readonly RolePlan[], from: Situation): Move[] {
  const numbers = Object.values(takes).filter(
    (value): value is number => typeof value === 'number' && Number.isInteger(value) && Math.abs(value) < 100_000,
  );
  const around = numbers.flatMap((number) => [number, number + 1, number - 1]);
  return roles.flatMap(({ step, entry }): Move[] => {
    if (entry || step.sort.isMade) return [];
    if (step.kind.is.includes('decimal')) return around.map((number) => changed(material, step, number));
    if (!step.kind.is.includes('day')) return [];
    const others = roles
      .filter((role) => role.step !== step && role.step.kind.is.includes('day'))
      .map(({ place }) => valueAt(from.submission, place));
    const days = others.filter((value): value is Day => typeof value === 'string');
    return days.flatMap((day) => around.flatMap((by) => [by, -by]).map((by) => changed(material, step, addDays(day, by))));
  });
}

/** A row with another value in one of the columns that are asked for. */
function columnMoves(material: Material, { collection, columns }: LookUpSpec): Move[] {
  const today = material.at.today;
  return columns.flatMap((column) =>
    [...(collection.columns[column]?.spec.examples?.(today) ?? []), 1_000_000].map(
      (value): Move =>
        (from) => {
          const row = from.store.rows[collection.name];
          return row && withRow(collection.name, { ...row, [column]: value })(from);
        },
    ),
  );
}

function withRow(collection: string, row: object | undefined): Move {
  return (from) => ({ ...from, store: { ...from.store, rows: { ...from.store.rows, [collection]: row as never } } });
}

/** A field with a value near that of a column which is compared with it: at what is stored, before it, behind it. */
function fromRows(material: Material, roles: readonly RolePlan[], { spec }: LookUpPlan, from: Situation): Move[] {
  const row = from.store.rows[spec.collection.name];
  if (!row) return [];
  const values = spec.columns.map((column) => row[column]).filter((value) => typeof value === 'number' || typeof value === 'string');
  return roles.flatMap((role) =>
    role.entry || role.step.sort.isMade
      ? []
      : values.flatMap((value) => {
          try {
            return (role.step.kind.around?.(value) ?? []).map((each) => changed(material, role.step, each));
          } catch {
            return [];
          }
        }),
  );
}

/** What a sample says: the values of the roles, and what the look-ups found. */
function bySample(material: Material, plan: UsePlan, sample: Sample): Move {
  return (from) => {
    let next = copyOf(from);
    for (const role of plan.roles) {
      if (!(role.name in sample)) continue;
      const value = sample[role.name];
      if (role.entry && !putEntries(material, next, role, value)) return undefined;
      if (!role.entry && !put(material, next, role.step, value)) return undefined;
    }
    for (const { name, spec } of plan.lookUps) {
      if (!(name in sample)) continue;
      const found = sample[name];
      const { collection } = spec;
      if (typeof found === 'boolean' || typeof found === 'number')
        next = { ...next, store: { ...next.store, numbers: { ...next.store.numbers, [lookUpName(spec)]: Number(found) } } };
      else next = withRow(collection.name, rowLike(material, spec, found))(next) as Situation;
    }
    return next;
  };
}

function rowLike(material: Material, { collection }: LookUpSpec, found: unknown): object | undefined {
  const first: unknown = Array.isArray(found) ? found[0] : found;
  return typeof first === 'object' && first !== null ? { ...material.rowOf(collection), ...first } : undefined;
}

/** The entries of a list, each as it would be made, with the values of the sample. */
function putEntries(material: Material, situation: Situation, { entry }: RolePlan, value: unknown): boolean {
  const list = entry?.lists[0];
  if (!entry || !list || !Array.isArray(value)) return false;
  const entries = value.map((sample: Sample) => {
    const made = { held: material.valueOf(list.item) };
    for (const { name, place } of entry.roles) {
      const segments = ['held', ...place.segments.slice(list.place.segments.length + 1)];
      putAt(made, { ...place, segments }, sample[name]);
    }
    return made.held;
  });
  return put(material, situation, list, entries);
}
