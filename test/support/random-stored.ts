import {
  above,
  asStored,
  below,
  both,
  collection,
  column,
  compareExact,
  condition,
  day,
  either,
  exact,
  exactly,
  exactSum,
  group,
  ignoringCase,
  inSame,
  intake,
  list,
  maybe,
  not,
  notAbove,
  notBelow,
  rule,
  text,
  whole,
} from 'jestril';
import type { Random } from './random.ts';

// Intakes at random whose rules look into records, and a naive reading of what docs/stored.md says of them.

// biome-ignore lint/suspicious/noExplicitAny: declarations that are made at random have no types
const any = (value: unknown): any => value;

export type Row = { readonly id: number; readonly a: string; readonly n: number | null; readonly c: string; readonly x: string | null };
type Values = { readonly [role: string]: string | number | undefined };
type Column = 'a' | 'n' | 'c' | 'x';
/** The role that is compared with a column: of the same kind. */
const ROLE = { a: 'f', n: 'g', c: 'h', x: 'k' } as const;
const COLUMNS: readonly Column[] = ['a', 'n', 'c', 'x'];

type Test =
  | { readonly is: 'equal' | 'ignoringCase' | 'above' | 'below' | 'notAbove' | 'notBelow' | 'month' | 'week' }
  | { readonly is: 'exactly'; readonly values: readonly (string | number | null)[] }
  | { readonly is: 'column'; readonly compare: 'equal' | 'above' }
  | { readonly is: 'both' | 'either'; readonly of: readonly Test[] };
type Group = { readonly [C in Column]?: Test };
type Where = Group | { readonly either: readonly Group[] };
interface LookUpDescription {
  readonly want: 'one' | 'oneOrNone' | 'all' | 'first' | 'firstRows' | 'count' | 'exists' | 'sum' | 'highest' | 'lowest';
  readonly where: Where;
  readonly columns: readonly Column[];
  readonly column: 'n' | 'x' | 'c';
  readonly from: 'highest' | 'lowest';
  readonly most: number;
  readonly exceptItself: boolean;
}
export interface RuleDescription {
  readonly id: string;
  /** Which of its roles may be absent. */
  readonly maybe: readonly string[];
  readonly inList: boolean;
  readonly lookUp: LookUpDescription;
  readonly on?: 'create' | 'amend';
  readonly trial: boolean;
  /** It reads what was stored, too. */
  readonly readsStored: boolean;
  readonly when?: { readonly isNot: boolean; readonly lookUp: LookUpDescription };
}

const rows = collection('rows', { id: whole, a: text, n: maybe(whole), c: day, x: maybe(exact) }, { key: 'id' });
const VALUES = {
  a: ['p', 'P', 'q'],
  n: [1, 2, 3],
  c: ['2031-04-28', '2031-04-30', '2031-05-01', '2031-05-05'],
  x: ['0.10', '0.2', '2', '-1'],
} as const;

export function rowsFor(random: Random): Row[] {
  return Array.from({ length: random.below(6) }, (_, at) => ({
    id: at + 1,
    a: random.pick(VALUES.a),
    n: random.pick([null, ...VALUES.n]),
    c: random.pick(VALUES.c),
    x: random.pick([null, ...VALUES.x]),
  }));
}

function testFor(random: Random, name: Column, depth = 1): Test {
  if (depth > 0 && random.below(5) === 0) {
    const of = [testFor(random, name, 0), testFor(random, name, 0)];
    return { is: random.pick(['both', 'either']), of };
  }
  const fixed = { is: 'exactly', values: [random.pick<string | number | null>(VALUES[name])] } as const;
  switch (name) {
    case 'a':
      return random.pick<Test>([{ is: 'equal' }, { is: 'ignoringCase' }, fixed]);
    case 'n':
      return random.pick<Test>([
        { is: 'equal' },
        { is: random.pick(['above', 'below', 'notAbove', 'notBelow']) },
        { is: 'exactly', values: [1, 3] },
        { is: 'exactly', values: [null] },
        { is: 'column', compare: random.pick(['equal', 'above']) },
      ]);
    default:
      return random.pick<Test>([
        { is: 'equal' },
        { is: random.pick(['above', 'below', 'notAbove', 'notBelow']) },
        name === 'c' ? { is: random.pick(['month', 'week']) } : fixed,
      ]);
  }
}

function groupFor(random: Random, names: readonly Column[]): Group {
  const chosen = names.filter(() => random.below(2) === 0);
  const some = chosen.length > 0 ? chosen : [random.pick(names)];
  return Object.fromEntries(some.map((name) => [name, testFor(random, name)]));
}

function lookUpFor(random: Random, names: readonly Column[], wants: readonly LookUpDescription['want'][]): LookUpDescription {
  const where = random.below(4) === 0 ? { either: [groupFor(random, names), groupFor(random, names)] } : groupFor(random, names);
  return {
    want: random.pick(wants),
    where,
    columns: COLUMNS.filter((_, at) => at === 0 || random.below(2) === 0),
    column: random.pick(['n', 'x', 'c']),
    from: random.pick(['highest', 'lowest']),
    most: random.pick([1, 2, 9]),
    exceptItself: random.below(3) === 0,
  };
}

const WANTS = ['one', 'oneOrNone', 'all', 'first', 'firstRows', 'count', 'exists', 'sum', 'highest', 'lowest'] as const;

export function ruleFor(random: Random, at: number): RuleDescription {
  const inList = random.below(3) === 0;
  const names: readonly Column[] = inList ? ['a', 'n'] : COLUMNS;
  const mayBe = names.map((name) => ROLE[name]).filter(() => random.below(3) === 0);
  // What `one` asks must always be there.
  const lookUp = lookUpFor(random, names, mayBe.length > 0 ? WANTS.slice(1) : WANTS);
  const guard = random.below(3) === 0 ? { isNot: random.below(2) === 0, lookUp: lookUpFor(random, names, ['exists', 'count']) } : undefined;
  const on = random.pick([undefined, undefined, 'create', 'amend']);
  return {
    id: `test/r${at}`,
    maybe: mayBe,
    inList,
    lookUp,
    trial: random.below(6) === 0,
    readsStored: !inList && random.below(3) === 0,
    ...(on && { on }),
    ...(guard && { when: guard }),
  };
}

/** A rule holds or not by what it found, and by what was stored, whatever that means. */
export function holdsFor(found: unknown, was = 0): boolean {
  let hash = 7 + was;
  for (const character of JSON.stringify(sorted(found)) ?? 'nothing') hash = (hash * 31 + character.charCodeAt(0)) % 65_521;
  return hash % 3 !== 0;
}
/** Rows without an order, in one. */
export function sorted(found: unknown): unknown {
  return Array.isArray(found) ? found.map((each) => JSON.stringify(each)).sort() : found;
}

const COMPARED = { above, below, notAbove, notBelow, ignoringCase } as const;

function declared(test: Test, name: Column): unknown {
  switch (test.is) {
    case 'equal':
      return ROLE[name];
    case 'month':
    case 'week':
      return inSame(test.is, 'h');
    case 'exactly':
      return (exactly as (...values: unknown[]) => unknown)(...test.values);
    case 'column':
      return test.compare === 'equal' ? column('id') : any(above)(column('id'));
    case 'both':
    case 'either':
      return any(test.is === 'both' ? both : either)(...test.of.map((each) => declared(each, name)));
    default:
      return any(COMPARED[test.is])(ROLE[name]);
  }
}
const declaredGroup = (each: Group) =>
  Object.fromEntries(Object.entries(each).map(([name, test]) => [name, declared(test, name as Column)]));

const declaredOf = (where: Where) => ('either' in where ? any(either)(...where.either.map(declaredGroup)) : declaredGroup(where as Group));

function declaredLookUp({ want, where, columns, column: of, from, most, exceptItself }: LookUpDescription): unknown {
  const asked = declaredOf(where);
  const more = { exceptItself };
  switch (want) {
    case 'one':
    case 'oneOrNone':
      return any(rows)[want](asked, columns);
    case 'all':
      return any(rows).all(asked, columns, { ...more, most });
    case 'first':
      return any(rows).first(asked, columns, { [from]: of, ...more });
    case 'firstRows':
      return any(rows).firstRows(asked, columns, { [from]: of, most, ...more });
    case 'count':
    case 'exists':
      return any(rows)[want](asked, more);
    case 'sum':
      return any(rows).sum(asked, of === 'c' ? 'n' : of, more);
    default:
      return any(rows)[want](asked, of, more);
  }
}

const KINDS = { f: text, g: whole, h: day, k: exact } as const;

/** The intake of some rules. */
export function formOf(rules: readonly RuleDescription[]) {
  const entry = group('Entry', { f: text('F').orAbsent(), g: whole('G').orAbsent() });
  const fields = {
    f: text('F'),
    g: whole('G').orAbsent(),
    h: day('H').orAbsent(),
    k: exact('K').orAbsent(),
    l: list('L', entry).orEmpty(),
  };
  const uses = rules.map(({ id, maybe: mayBe, inList, lookUp, when, on, trial, readsStored }) => {
    const names = inList ? (['f', 'g'] as const) : (['f', 'g', 'h', 'k'] as const);
    const roles = Object.fromEntries(names.map((name) => [name, mayBe.includes(name) ? maybe(any(KINDS[name])) : KINDS[name]]));
    const bound = Object.fromEntries(names.map((name) => [name, inList ? `l.*.${name}` : name]));
    const looksUp = { found: declaredLookUp(lookUp) };
    const made = rule(
      id,
      any({ ...roles, ...(readsStored && { was: maybe(whole) }) }),
      any({
        looksUp,
        holds: ({ was }: { was?: number }, { found }: { found: unknown }) => holdsFor(found, was),
        message: id,
        blames: 'f',
      }),
    );
    const boundAll = { ...bound, ...(readsStored && { was: asStored('g') }) };
    const how = { trial, ...(on && { on: [on] }) };
    if (!when) return any(made)(boundAll, how);
    const guard = condition(
      `${id}-when`,
      any(roles),
      any({ looksUp: { found: declaredLookUp(when.lookUp) }, holds: (_read: object, { found }: { found: unknown }) => Boolean(found) }),
    );
    const holds = any(guard)(bound);
    return any(made)(boundAll, { ...how, when: when.isNot ? not(holds) : holds });
  });
  return intake('form', fields, { zone: 'Europe/Oslo', storedIn: rows, rules: uses, mostFindings: 1000 });
}

const fold = (value: string) => value.toLowerCase();
const weekOf = (on: string) => Math.floor((Date.parse(on) / 86_400_000 + 3) / 7);
const compare = (left: string | number, right: string | number, name: Column): number =>
  name === 'x' ? compareExact(any(left), any(right)) : left < right ? -1 : left > right ? 1 : 0;

/** Whether a row is one of those asked for; nothing where the test asks for nothing, since its role is absent. */
function isMet(test: Test, name: Column, row: Row, read: Values): boolean | undefined {
  if (test.is === 'both' || test.is === 'either') {
    const met = test.of.map((each) => isMet(each, name, row, read));
    if (test.is === 'both') return met.includes(undefined) ? undefined : met.every(Boolean);
    const asked = met.filter((each) => each !== undefined);
    return asked.length === 0 ? undefined : asked.some(Boolean);
  }
  const held = row[name];
  if (test.is === 'exactly')
    return test.values.some((value) => (value === null || held === null ? held === value : compare(held, value, name) === 0));
  if (test.is === 'column') return held !== null && (test.compare === 'equal' ? held === row.id : Number(held) > row.id);
  const asked = read[ROLE[name]];
  if (asked === undefined) return undefined;
  if (held === null) return false;
  const order = compare(held, asked, name);
  switch (test.is) {
    case 'equal':
      return order === 0;
    case 'ignoringCase':
      return fold(String(held)) === fold(String(asked));
    case 'above':
      return order > 0;
    case 'below':
      return order < 0;
    case 'notAbove':
      return order <= 0;
    case 'notBelow':
      return order >= 0;
    case 'month':
      return String(held).slice(0, 7) === String(asked).slice(0, 7);
    default:
      return weekOf(String(held)) === weekOf(String(asked));
  }
}

function areMet(where: Where, row: Row, read: Values): boolean | undefined {
  if ('either' in where) {
    const asked = where.either.map((each) => areMet(each, row, read)).filter((each) => each !== undefined);
    return asked.length === 0 ? undefined : asked.some(Boolean);
  }
  const met = Object.entries(where).map(([name, test]) => isMet(test, name as Column, row, read));
  return met.includes(undefined) ? undefined : met.every(Boolean);
}

/** Whether it asks about a stretch of the calendar that reaches beyond the days that there are. */
function reachesBeyond(where: Where, row: Row, read: Values): boolean {
  if ('either' in where) return where.either.some((each) => reachesBeyond(each, row, read));
  const isBeyond = (test: Test, name: Column): boolean => {
    if (isMet(test, name, row, read) === undefined) return false;
    if (test.is === 'both' || test.is === 'either') return test.of.some((each) => isBeyond(each, name));
    return (test.is === 'week' && read.h === '0000-01-01') || ((test.is === 'week' || test.is === 'month') && read.h === '9999-12-31');
  };
  return areMet(where, row, read) !== undefined && Object.entries(where).some(([name, test]) => isBeyond(test, name as Column));
}
const ANY_ROW: Row = { id: 0, a: '', n: null, c: '', x: null };

/** What a look-up finds, or why nobody can tell. */
export type Found = { readonly found: unknown } | { readonly none: true } | { readonly unsettled: string };

export function foundBy(description: LookUpDescription, stored: readonly Row[], read: Values, itself?: number): Found {
  const { want, where, columns, column: of, from, most, exceptItself } = description;
  if (reachesBeyond(where, ANY_ROW, read)) return { unsettled: 'fault' };
  const leavesOut = exceptItself && want !== 'one' && want !== 'oneOrNone';
  const met = stored.filter((row) => areMet(where, row, read) === true && !(leavesOut && row.id === itself));
  const pick = (row: Row) => Object.fromEntries(columns.map((name) => [name, row[name] ?? undefined]));
  const inOrder = (by: 'n' | 'x' | 'c') =>
    met
      .filter((row) => row[by] !== null)
      .sort((a, b) => compare(a[by] as string, b[by] as string, by) * (from === 'highest' ? -1 : 1) || a.id - b.id);
  switch (want) {
    case 'one':
    case 'oneOrNone':
      if (met.length > 1) return { unsettled: 'stored-unsound' };
      if (met[0] || want === 'oneOrNone') return { found: met[0] && pick(met[0]) };
      // Where nothing of the submission takes part, nobody who sends one is to blame.
      return JSON.stringify(declaredOf(where)).match(/"[fghk]"/) ? { none: true } : { unsettled: 'fault' };
    case 'all':
      return met.length > most ? { unsettled: 'too-many-rows' } : { found: met.map(pick) };
    case 'first':
      return { found: inOrder(of).map(pick)[0] };
    case 'firstRows':
      return { found: inOrder(of).slice(0, most).map(pick) };
    case 'count':
      return { found: met.length };
    case 'exists':
      return { found: met.length > 0 };
    case 'sum': {
      const held = met.flatMap((row) => (of === 'x' ? (row.x ?? []) : (row.n ?? [])));
      return {
        found:
          of === 'x' ? (exactSum as (...values: unknown[]) => string)(...held) : held.reduce<number>((sum, each) => sum + Number(each), 0),
      };
    }
    default: {
      const values = met.flatMap((row) => row[of] ?? []);
      const ordered = values.sort((a, b) => compare(a, b, of) * (want === 'highest' ? -1 : 1));
      return { found: ordered[0] };
    }
  }
}

/** What is read, as raw values: some are of no kind, some are not there. */
export function submissionFor(random: Random, canBeOdd: boolean) {
  const odd = () => canBeOdd && random.below(12) === 0;
  const valueFor = (name: Column, canBeAbsent: boolean) =>
    odd() ? { odd: true } : canBeAbsent && random.below(4) === 0 ? undefined : random.pick<string | number>(VALUES[name]);
  const entry = () => ({ f: valueFor('a', true), g: valueFor('n', true) });
  return {
    f: valueFor('a', false),
    g: valueFor('n', true),
    h: random.below(12) === 0 ? random.pick(['0000-01-01', '9999-12-31']) : valueFor('c', true),
    k: valueFor('x', true),
    l: Array.from({ length: random.below(3) }, entry),
  };
}
