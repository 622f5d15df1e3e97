import {
  absent,
  asStored,
  atLeastOneOf,
  between,
  entries,
  equals,
  type Fields,
  group,
  intake,
  length,
  list,
  maybe,
  needed,
  oneOfShapes,
  rule,
  shape,
  table,
  text,
  whole,
} from 'jestril';
import type { LooseIntake } from './judging.ts';
import type { Random } from './random.ts';

// Random intakes as data, so that a naive reading of the rules (naive-judge.ts) can be held against the engine.

export type Leaf = { readonly kind: 'text' | 'whole'; readonly rule: boolean };
type Inside = { readonly fields: Described } | { readonly each: Described } | { readonly shapes: { readonly [name: string]: Described } };
export type FieldDescription = {
  readonly presence: 'needed' | 'optional' | 'filled';
  readonly leftOut: boolean;
} & (Leaf | ({ readonly kind: 'group' | 'list' | 'table' | 'shapes' } & Inside));
export type Described = { readonly [name: string]: FieldDescription };
export interface UseDescription {
  readonly name: string;
  readonly is: 'less' | 'alike' | 'total' | 'needed' | 'absent' | 'some' | 'rises';
  readonly paths: readonly string[];
  readonly when: { readonly path: string; readonly is: number } | undefined;
  readonly on: 'amend' | undefined;
}
export interface Description {
  readonly fields: Described;
  readonly uses: readonly UseDescription[];
}

const shapesOf = (field: FieldDescription) => ('shapes' in field ? field.shapes : {});

export function describeIntake(random: Random): Description {
  const fields = describeFields(random, 2, false);
  const leaves = leavesOf(fields);
  const uses: UseDescription[] = [];
  for (let made = random.below(5); made >= 0; made--) {
    const use = random.below(6) === 0 ? describeRise(random, leaves, `use${made}`) : describeUse(random, leaves, `use${made}`);
    if (use) uses.push(use);
  }
  return { fields, uses };
}

function describeFields(random: Random, depth: number, isEntry: boolean): Described {
  const names = ['a', 'b', 'c', 'd', 'e'].slice(0, 2 + random.below(3));
  const fields = Object.fromEntries(names.map((name) => [name, describeField(random, depth)]));
  // Every entry has a number of its own, so that it is known which entry is which.
  return isEntry ? { id: { kind: 'whole', rule: false, presence: 'optional', leftOut: false }, ...fields } : fields;
}

/** Lists, tables and shapes hold others now and then. */
const deeper = (random: Random, depth: number) => (random.below(3) === 0 ? depth - 1 : 0);

function describeField(random: Random, depth: number): FieldDescription {
  const presence = random.pick(['needed', 'needed', 'optional', 'optional', 'filled'] as const);
  const common = { presence, leftOut: false };
  switch (depth > 0 ? random.below(9) : 8) {
    case 0:
    case 1:
      return {
        ...common,
        presence: presence === 'filled' ? 'needed' : presence,
        kind: 'group',
        fields: describeFields(random, depth - 1, false),
      };
    case 2:
    case 3:
      return { ...common, kind: 'list', each: describeFields(random, deeper(random, depth), true) };
    case 4:
      return { ...common, kind: 'table', each: describeFields(random, deeper(random, depth), true) };
    case 5: {
      const shapes = { x: describeFields(random, deeper(random, depth), false), y: describeFields(random, 0, false) };
      return { ...common, presence: presence === 'filled' ? 'needed' : presence, kind: 'shapes', shapes };
    }
    default:
      return {
        ...common,
        leftOut: random.below(8) === 0,
        kind: random.pick(['text', 'whole', 'whole'] as const),
        rule: random.below(2) === 0,
      };
  }
}

interface LeafAt {
  readonly path: string;
  readonly field: FieldDescription & Leaf;
  readonly list: string | undefined;
}

function leavesOf(fields: Described, prefix = '', list?: string): LeafAt[] {
  return Object.entries(fields).flatMap(([name, field]): LeafAt[] => {
    const path = prefix + name;
    if (field.kind === 'text' || field.kind === 'whole') return [{ path, field: field as FieldDescription & Leaf, list }];
    if ('fields' in field) return leavesOf(field.fields, `${path}.`, list);
    if ('each' in field) return leavesOf(field.each, `${path}.*.`, path);
    return Object.entries(shapesOf(field)).flatMap(([shape, inner]) => leavesOf(inner, `${path}.${shape}.`, list));
  });
}

/** A number that must not fall below what is stored, wherever it stands. */
function describeRise(random: Random, all: readonly LeafAt[], name: string): UseDescription | undefined {
  const leaf = random.maybePick(all.filter(({ field, path }) => field.kind === 'whole' && !field.leftOut && !path.endsWith('.id')));
  return leaf && { name, is: 'rises', paths: [leaf.path], when: undefined, on: undefined };
}

function describeUse(random: Random, all: readonly LeafAt[], name: string): UseDescription | undefined {
  // The naive reading of rules knows entries with their own fields; what stands deeper is read, kept and paired.
  const leaves = all.filter(({ path }) => !path.endsWith('.id') && !/\.\*\..*\./.test(path));
  const is = random.pick(['less', 'less', 'alike', 'total', 'needed', 'absent', 'some'] as const);
  const kind = is === 'alike' ? 'text' : is === 'less' || is === 'total' ? 'whole' : undefined;
  const fitting = kind ? leaves.filter(({ field }) => field.kind === kind) : leaves;
  const first = random.maybePick(is === 'total' ? fitting.filter(({ list }) => list !== undefined) : fitting);
  if (!first) return undefined;
  const isFree = ({ list }: LeafAt, beside: LeafAt) => list === undefined || beside.list === undefined || list === beside.list;
  const others = fitting.filter((leaf) => leaf !== first && isFree(leaf, first));
  const second = is === 'less' || is === 'alike' || is === 'some' ? random.maybePick(others) : undefined;
  if ((is === 'less' || is === 'alike' || is === 'some') && !second) return undefined;
  const scope = is === 'total' ? undefined : (first.list ?? second?.list);
  const conditions = leaves.filter(({ field, list }) => field.kind === 'whole' && (list === undefined || list === scope));
  const condition = random.below(3) === 0 ? random.maybePick(conditions) : undefined;
  return {
    name,
    is,
    paths: second ? [first.path, second.path] : [first.path],
    when: condition && { path: condition.path, is: random.below(4) },
    on: random.below(10) === 0 ? 'amend' : undefined,
  };
}

const less = rule('test/less', { a: whole, b: whole }, { holds: ({ a, b }) => a <= b, message: 'x', blames: ['a', 'b'] });
const alike = rule('test/alike', { a: maybe(text), b: maybe(text) }, { holds: ({ a, b }) => a === b, message: 'x', blames: ['a', 'b'] });
const rises = rule('test/rises', { was: whole, now: whole }, { holds: ({ was, now }) => now >= was, message: 'x', blames: 'now' });
const total = rule(
  'test/total',
  { all: entries({ of: whole }) },
  { holds: ({ all }) => all.reduce((sum, { of }) => sum + of, 0) <= 6, message: 'x', blames: 'all' },
);

/** What a whole number has to be, and how long a text may be, where there is a rule. */
export const BOUNDS = { least: 0, most: 5, longest: 3 };

/** @param isSecret whether all texts are secret */
export function buildIntake({ fields, uses }: Description, more: object = {}, isSecret = false): LooseIntake {
  const rules = uses.map(({ name, is, paths, when, on }) => {
    const use = { as: name, ...(when && { when: equals({ [when.path]: when.is } as never) }), ...(on && { on }) };
    const [first, second] = paths as [never, never];
    if (is === 'rises') return rises({ was: asStored(first) as never, now: first }, use as never);
    if (is === 'total') return total({ all: { of: first } }, use as never);
    if (is === 'needed') return needed(first, use as never);
    if (is === 'absent') return absent(first, use as never);
    if (is === 'some') return atLeastOneOf(first, second, use as never);
    return (is === 'less' ? less : alike)({ a: first, b: second }, use as never);
  });
  return intake('random', buildFields(fields, isSecret), { rules: rules as never, ...more }) as unknown as LooseIntake;
}

function buildFields(fields: Described, isSecret: boolean): Fields {
  return Object.fromEntries(Object.entries(fields).map(([name, field]) => [name, buildField(field, isSecret)]));
}

// Typed loosely: what stands where is random.
interface AnyBuilt {
  orAbsent(): AnyBuilt;
  orElse(value: unknown): AnyBuilt;
  orEmpty(): AnyBuilt;
  leftOut(): AnyBuilt;
  secret(): AnyBuilt;
}

function buildField(field: FieldDescription, isSecret: boolean): never {
  let built: AnyBuilt;
  if (field.kind === 'text') built = text('T', ...(field.rule ? [length({ max: BOUNDS.longest })] : [])) as never;
  else if (field.kind === 'whole') built = whole('W', ...(field.rule ? [between(BOUNDS.least, BOUNDS.most)] : [])) as never;
  else if ('fields' in field) built = group('G', buildFields(field.fields, isSecret)) as never;
  else if ('each' in field) built = (field.kind === 'list' ? list : table)('L', group('E', buildFields(field.each, isSecret))) as never;
  else
    built = oneOfShapes(
      'S',
      'is',
      Object.fromEntries(Object.entries(shapesOf(field)).map(([name, inner]) => [name, shape(buildFields(inner, isSecret))])),
    ) as never;
  if (field.presence === 'optional') built = built.orAbsent();
  if (field.presence === 'filled') built = 'each' in field ? built.orEmpty() : built.orElse(field.kind === 'text' ? 'xy' : 2);
  if (isSecret && field.kind === 'text') built = built.secret();
  return (field.leftOut ? built.leftOut() : built) as never;
}
