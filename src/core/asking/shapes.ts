import type { Scalar } from '../basics/verdict.ts';
import type { CollectionSpec, Groups, LookUpSpec, TermSpec, Terms } from '../declared/look-up.ts';
import type { Reads } from '../declared/rule.ts';
import type { Question, Term } from '../stored/records.ts';

// A look-up as a question without its keys: worked out once for each that is declared.

/** What a question has besides its columns and its keys. */
export interface Ground extends Pick<Question, 'terms' | 'either' | 'want' | 'most' | 'order' | 'isFresh'> {
  readonly collection: CollectionSpec;
}

/** Where the value of a term comes from: a role, the rule itself, the scope of the records, or the key of the record judged again. */
export type Source =
  | { readonly from: 'calendar'; readonly term: TermSpec; readonly isMoment: boolean }
  | { readonly from: 'role' | 'scope' | 'itself'; readonly name: string }
  | { readonly from: 'rule'; readonly value: Exclude<Scalar, null> };

/** What all keys of a look-up have in common. */
export interface Shape {
  readonly ground: Ground;
  /** Look-ups of one name go together. */
  readonly name: string;
  readonly columns: readonly string[];
  /** One for each term. */
  readonly sources: readonly Source[];
}

/** The shapes of one look-up, which is declared once and asked often. */
interface ShapesById {
  /** All that it may ask is there. */
  plain?: Shape;
  /** The same, but for the record that is judged again. */
  except?: Shape;
  readonly others: Map<string, Shape>;
}
const shapes = new WeakMap<LookUpSpec, ShapesById>();

/** `undefined`: what it asks with is absent, and nothing is asked. */
export function shapeOf(spec: LookUpSpec, isExcept: boolean, read: Reads): Shape | undefined {
  let known = shapes.get(spec);
  if (!known) {
    known = { others: new Map() };
    shapes.set(spec, known);
  }
  for (const { role } of spec.terms) if (role !== undefined && read[role] === undefined) return openShapeOf(spec, isExcept, read, known);
  if (isExcept) {
    known.except ??= makeShape(spec, spec, true);
    return known.except;
  }
  known.plain ??= makeShape(spec, spec, false);
  return known.plain;
}

/** Some of what it asks with is absent. */
function openShapeOf(spec: LookUpSpec, isExcept: boolean, read: Reads, { others }: ShapesById): Shape | undefined {
  const asked = withoutAbsent(spec, ({ role }) => role !== undefined && read[role] === undefined);
  if (!asked) return undefined;
  const name = `${isExcept}${asked.terms.map((term) => spec.terms.indexOf(term)).join()}`;
  const shape = others.get(name) ?? makeShape(spec, asked, isExcept);
  others.set(name, shape);
  return shape;
}

/** An interval that is open on one side does not ask about it, and an alternative that cannot be asked for is none. */
function withoutAbsent({ terms, either = [] }: Terms, isAbsent: (term: Terms['terms'][number]) => boolean): Terms | undefined {
  const inGroups = new Set(either.flat(2));
  if (terms.some((term, index) => !inGroups.has(index) && !term.isOpen && isAbsent(term))) return undefined;
  const groups = either.map((lists) => lists.filter((list) => !list.some((index) => isAbsent(terms[index] as Terms['terms'][number]))));
  if (groups.some((lists) => lists.length === 0)) return undefined;
  const left = new Set(groups.flat(2));
  const kept = [...terms.keys()].filter((index) => (inGroups.has(index) ? left.has(index) : !isAbsent(terms[index] as never)));
  return {
    terms: kept.map((index) => terms[index] as Terms['terms'][number]),
    either: groups.map((lists) => lists.map((list) => list.map((index) => kept.indexOf(index)))),
  };
}

function makeShape(spec: LookUpSpec, asked: Terms, isExcept: boolean): Shape {
  const { collection } = spec;
  const terms: Term[] = [];
  const sources: Source[] = [];
  const groups: Groups[number][] = [];
  const add = (term: Term, source: Source) => {
    sources.push(source);
    return terms.push(term) - 1;
  };
  for (const part of [asked, collection.only]) {
    const before = terms.length;
    for (const term of part.terms) {
      const { column, is, role, exactly, than, orMissing, calendar } = term;
      const isMoment = collection.columns[column]?.spec.storedAs === 'timestamp';
      add(
        {
          column,
          is,
          ...(than !== undefined && { than }),
          ...(orMissing && { orMissing }),
          ...(role === undefined && !calendar && { isFixed: true }),
        },
        calendar
          ? { from: 'calendar', term, isMoment }
          : role === undefined
            ? { from: 'rule', value: exactly ?? true }
            : { from: 'role', name: role },
      );
    }
    groups.push(...(part.either ?? []).map((lists) => lists.map((list) => list.map((index) => before + index))));
  }
  if (spec.onlyItself) for (const column of collection.key) add({ column, is: 'equal' }, { from: 'itself', name: column });
  for (const column of collection.scope) add({ column, is: 'equal', isFixed: true }, { from: 'scope', name: column });
  if (isExcept) {
    // Another record differs in some column of the key.
    const others = collection.key.map((column) => [add({ column, is: 'otherThan' }, { from: 'itself', name: column })]);
    if (others.length > 1) groups.push(others);
  }
  const { want } = spec.form;
  const { most, order } = spec.form.asks(spec);
  const ground: Ground = {
    collection,
    terms,
    want,
    ...(groups.length > 0 && { either: groups }),
    ...(most !== undefined && { most }),
    ...(order && { order }),
    ...(spec.isFresh && { isFresh: true }),
  };
  const columns = columnsOf(spec);
  const name = JSON.stringify([collection.name, terms, groups, want, most, order, spec.isFresh, want === 'rows' ? 0 : columns]);
  return { ground, sources, columns, name };
}

/** The columns to fetch: those that the rule reads, and those that look-ups inside start from. */
export function columnsOf(spec: LookUpSpec): string[] {
  const columns = new Set(spec.columns);
  for (const inner of Object.values(spec.inner)) {
    for (const { role } of inner.terms) if (role !== undefined && role in spec.collection.columns) columns.add(role);
  }
  // A row has to be told from no row, so at least its key is fetched.
  if (columns.size === 0 && spec.form.want === 'rows') for (const column of spec.collection.key) columns.add(column);
  return [...columns];
}
