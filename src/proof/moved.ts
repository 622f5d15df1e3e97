import { compareNumbers } from '../core/basics/exact.ts';
import type { KindSpec } from '../core/declared/kind.ts';
import type { CollectionSpec, Comparison, LookUpSpec } from '../core/declared/look-up.ts';
import type { Takes, UseSpec } from '../core/declared/rule.ts';

// What is near to what a definition says: its parameters with one of them a step further, a look-up with one of its terms otherwise.

/** Something near, and how it differs. */
export interface Moved<T> {
  readonly told: string;
  readonly value: T;
}

/** @param around the values before and after one, by the kind of the field; where there is one field */
export function movedTakes(takes: Takes, around?: KindSpec['around']): Moved<Takes>[] {
  return Object.entries(takes).flatMap(([name, value]) =>
    movedValues(name, value, around).map((moved) => ({
      told: `${name} ${shown(value)} becomes ${shown(moved)}`,
      value: { ...takes, [name]: moved },
    })),
  );
}

function movedValues(name: string, value: unknown, around: KindSpec['around']): unknown[] {
  // What the engine works out from the kinds of fields is no parameter of anybody's.
  if (typeof value === 'boolean') return /^is[A-Z]/.test(name) ? [] : [!value];
  if (typeof value === 'number') return Number.isFinite(value) ? nextTo(value) : [];
  if (typeof value === 'string') return around && isBound(value) ? around(value).filter((each) => isOther(each, value)) : [];
  if (value instanceof RegExp) return loosened(value);
  if (Array.isArray(value)) return value.length > 1 ? value.map((each) => value.filter((other) => other !== each)) : [];
  return isRelative(value) ? relatives(value) : [];
}

function nextTo(value: number): number[] {
  return Number.isInteger(value) ? [value - 1, value + 1] : [value * 0.99, value * 1.01];
}

/** Days, moments, times and exact numbers are texts; what is looked for in a text is no bound. */
function isBound(value: string): boolean {
  return /^-?[0-9]/.test(value);
}

function isOther(one: unknown, other: string): boolean {
  return isNumber(other) && isNumber(String(one)) ? compareNumbers(String(one), other) !== 0 : one !== other;
}

function isNumber(text: string): boolean {
  return /^-?[0-9]+(\.[0-9]+)?$/.test(text);
}

interface Relative {
  readonly relative: string;
  readonly by: number;
}

function isRelative(value: unknown): value is Relative {
  return typeof value === 'object' && value !== null && 'relative' in value && 'by' in value;
}

function relatives({ relative, by }: Relative): Relative[] {
  return [by - 1, by + 1].map((moved) => ({ relative: relative === 'today' ? 'daysFromToday' : relative, by: moved }));
}

/** An expression without one of its ends, or with a number of times that is one more. */
function loosened(expression: RegExp): RegExp[] {
  const { source, flags } = expression;
  const others = [
    ...(source.startsWith('^') ? [source.slice(1)] : []),
    ...(source.endsWith('$') && !source.endsWith('\\$') ? [source.slice(0, -1)] : []),
    ...[...source.matchAll(/\{(\d+)\}/g)].map(
      ({ 0: text, 1: times, index }) => `${source.slice(0, index)}{${Number(times) + 1}}${source.slice(index + text.length)}`,
    ),
  ];
  return others.map((other) => new RegExp(other, flags));
}

function shown(value: unknown): string {
  if (value instanceof RegExp) return String(value);
  if (isRelative(value)) return `${value.relative}${value.by === 0 ? '' : `(${value.by})`}`;
  if (Array.isArray(value))
    return `[${value.map((each) => (isUse(each) ? `${each.rule.id}(${Object.values(each.takes).map(shown).join(', ')})` : String(each))).join(', ')}]`;
  return String(value);
}

function isUse(value: unknown): value is UseSpec {
  return typeof value === 'object' && value !== null && 'rule' in value;
}

const TURNED: { readonly [is in Comparison]?: Comparison } = {
  above: 'notBelow',
  notBelow: 'above',
  below: 'notAbove',
  notAbove: 'below',
  ignoringCase: 'equal',
};

/** A look-up without one of its terms, or with a comparison that is a little other. */
export function movedLookUps(name: string, spec: LookUpSpec): Moved<LookUpSpec>[] {
  const { terms, either, exceptItself, inner } = spec;
  const moved: Moved<LookUpSpec>[] = [];
  for (const [at, term] of terms.entries()) {
    const { column, is } = term;
    const other = TURNED[is];
    const replaced = (by: typeof term) => terms.map((each, index) => (index === at ? by : each));
    if (other)
      moved.push({ told: `${name}: ${column} ${is} becomes ${other}`, value: { ...spec, terms: replaced({ ...term, is: other }) } });
    // Of alternatives the places would have to be counted anew.
    if (!either && terms.length > 1)
      moved.push({ told: `${name} does not ask about ${column}`, value: { ...spec, terms: terms.filter((each) => each !== term) } });
  }
  if (exceptItself) moved.push({ told: `${name} counts the record itself`, value: { ...spec, exceptItself: false } });
  for (const [nested, each] of Object.entries(inner))
    for (const { told, value } of movedLookUps(`${name}.${nested}`, each))
      moved.push({ told, value: { ...spec, inner: { ...inner, [nested]: value } } });
  return moved;
}

/** What a look-up of the rule itself is called. */
export function lookUpNamed(name: string, { name: collection }: CollectionSpec): string {
  return name.startsWith('(') ? `its look-up in ${collection}` : `its look-up ${name}`;
}
