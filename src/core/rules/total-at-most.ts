import { compareNumbers, sumOfProducts } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import { type RoleSpec, roleOf } from '../declared/kind.ts';
import type { BoundRule, Definition, RolePaths } from '../declared/rule.ts';
import { checkLimits, type Limit } from './range.ts';
import type { PathOf } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

type Amount = number | string;
type Amounts = { readonly [role: string]: unknown };
type NumberPath<F extends Fields> = PathOf<F, 'decimal' | 'exact'>;

/** The role that holds the limit, where it is a field. */
const MOST = 'most';
const NUMBER = roleOf(['decimal', 'exact']);

const family = {};
const made = new Map<string, Definition>();

/** One definition for each shape of a sum: how many factors each product has, and which of them stand in a list. */
function definitionFor(products: readonly (readonly string[])[], hasField: boolean): Definition {
  const shape = JSON.stringify([products.map((paths) => paths.map(isInList)), hasField]);
  let definition = made.get(shape);
  if (definition) return definition;
  const reads: { [role: string]: RoleSpec } = {};
  for (const [index, paths] of products.entries()) {
    const inList = paths.flatMap((path, factor) => (isInList(path) ? [nameOf(index, factor)] : []));
    if (inList.length > 0) {
      const entry = Object.fromEntries(inList.map((name) => [name, NUMBER]));
      reads[entriesOf(index)] = { spec: roleOf('any').spec, entry, maybe: true };
    }
    // What is not there adds nothing.
    for (const [factor, path] of paths.entries()) if (!isInList(path)) reads[nameOf(index, factor)] = { ...NUMBER, maybe: true };
  }
  const blames = Object.keys(reads);
  if (hasField) reads[MOST] = NUMBER;
  const total = (read: Amounts): string => sumOfProducts(products.flatMap((paths, index) => productsOf(read, paths, index)));
  definition = define('total-at-most', reads, {
    family,
    holds: (read: Amounts, _found: object, { most }: { most?: Limit }) =>
      compareNumbers(total(read), (hasField ? read[MOST] : most) as Amount) <= 0,
    facts: (read: Amounts, _found: object, { most }: { most?: Limit }) => ({ total: total(read), limit: hasField ? read[MOST] : most }),
    factNames: ['total', 'limit'],
    message: { en: '{fields} come to {total, number}, and may come to {limit, number} at most.' },
    blames,
    samples: samplesFor(products),
  });
  made.set(shape, definition);
  return definition;
}

/** The factors of every product that is whole: one for each entry, where some factor stands in a list. */
function productsOf(read: Amounts, paths: readonly string[], index: number): Amount[][] {
  const rows = paths.some(isInList) ? ((read[entriesOf(index)] ?? []) as Amounts[]) : [read];
  return rows
    .map((row) => paths.map((path, factor) => (isInList(path) ? row : read)[nameOf(index, factor)] as Amount | undefined))
    .filter((factors): factors is Amount[] => factors.every((factor) => factor !== undefined));
}

/** With every factor 1, a sum of so many products: just within its limit, and just over it. */
function samplesFor(products: readonly (readonly string[])[]) {
  const read: { [role: string]: unknown } = {};
  for (const [index, paths] of products.entries()) {
    const inList = paths.flatMap((path, factor): [string, number][] => (isInList(path) ? [[nameOf(index, factor), 1]] : []));
    if (inList.length > 0) read[entriesOf(index)] = [Object.fromEntries(inList)];
    for (const [factor, path] of paths.entries()) if (!isInList(path)) read[nameOf(index, factor)] = 1;
  }
  // The limit is a role or a parameter; both are told by this name.
  return { holds: [{ ...read, [MOST]: products.length }], fails: [{ ...read, [MOST]: products.length - 0.1 }] };
}

function isInList(path: string): boolean {
  return path.includes('*');
}

function entriesOf(product: number): string {
  return `entries${product + 1}`;
}

function nameOf(product: number, factor: number): string {
  return `factor${product + 1}_${factor + 1}`;
}

/**
 * A sum of products stays within a limit: `totalAtMost([['price', 'amount']], 'limit')` for fields,
 * `totalAtMost([['lines.*.price', 'lines.*.count', 'rate']], 500)` over the entries of a list. Counted exactly; blames the
 * factors (or the list). A product of which a factor is not there adds nothing; a limit that is not there limits nothing.
 *
 * @param products for each product the paths of its factors
 * @param most a number, or the path of a field
 *
 * @law A sum of products of fields, or over the entries of a list, stays within a number or the value of a field; counted exactly.
 * @example [{ price: exact('Price'), amount: whole('Amount'), limit: exact('Limit') }, [totalAtMost([['price', 'amount']], 'limit')]]
 * @holds { price: '0.10', amount: 3, limit: '0.30' }
 * @fails { price: '0.10', amount: 4, limit: '0.30' }
 */
export const totalAtMost = <F extends Fields>(
  products: readonly (readonly NumberPath<F>[])[],
  most: number | NumberPath<F>,
  use?: Use<F>,
): BoundRule<F> => {
  const paths = products as unknown as readonly (readonly string[])[];
  if (paths.length === 0 || paths.some((factors) => factors.length === 0)) fault('totalAtMost needs a product, and each product a factor.');
  const hasField = typeof most === 'string';
  if (!hasField) checkLimits('totalAtMost', most as number);
  const roles: { [role: string]: RolePaths[string] } = hasField ? { [MOST]: most as string } : {};
  for (const [index, factors] of paths.entries()) {
    const named = factors.map((path, factor) => [nameOf(index, factor), path] as const);
    const inList = named.filter(([, path]) => isInList(path));
    if (inList.length > 0) roles[entriesOf(index)] = Object.fromEntries(inList);
    for (const [name, path] of named) if (!isInList(path)) roles[name] = path;
  }
  return bind(definitionFor(paths, hasField), roles, hasField ? {} : { most }, use) as never;
};
