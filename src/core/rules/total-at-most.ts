import { compareNumbers, sumOfProducts } from '../exact.ts';
import { fault } from '../fault.ts';
import type { Fields } from '../kinds/field.ts';
import { type RoleSpec, roleOf } from '../kinds/kind.ts';
import type { Definition } from './definition.ts';
import { checkLimits, type Limit } from './range.ts';
import type { PathOf } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type RolePaths, type Use } from './use.ts';

type Value = number | string;
type Read = { readonly [role: string]: unknown };
type NumberPath<F extends Fields> = PathOf<F, 'decimal' | 'exact'>;

/** The role that holds the limit, where it is a field. */
const MOST = 'most';
const NUMBER = roleOf(['decimal', 'exact']);

const family = {};
const made = new Map<string, Definition>();

/** One definition for each shape of a sum: how many factors each product has, and whether it runs over entries. */
function definitionFor(products: readonly (readonly string[])[], hasField: boolean): Definition {
  const shape = JSON.stringify([products.map((paths) => [paths.length, isOverEntries(paths)]), hasField]);
  let definition = made.get(shape);
  if (definition) return definition;
  const reads: { [role: string]: RoleSpec } = {};
  for (const [index, paths] of products.entries()) {
    const factors = Object.fromEntries(paths.map((_, factor) => [nameOf(index, factor), NUMBER]));
    if (isOverEntries(paths)) reads[`entries${index + 1}`] = { spec: roleOf('any').spec, entry: factors };
    else Object.assign(reads, factors);
  }
  const blames = Object.keys(reads);
  if (hasField) reads[MOST] = NUMBER;
  const total = (read: Read): string =>
    sumOfProducts(
      products.flatMap((paths, index) =>
        (isOverEntries(paths) ? (read[`entries${index + 1}`] as Read[]) : [read]).map((from) =>
          paths.map((_, factor) => from[nameOf(index, factor)] as Value),
        ),
      ),
    );
  definition = define('total-at-most', reads, {
    family,
    holds: (read: Read, _found: object, { most }: { most?: Limit }) =>
      compareNumbers(total(read), (hasField ? read[MOST] : most) as Value) <= 0,
    facts: (read: Read, _found: object, { most }: { most?: Limit }) => ({ total: total(read), limit: hasField ? read[MOST] : most }),
    factNames: ['total', 'limit'],
    message: { en: '{fields} come to {total, number}, and may come to {limit, number} at most.' },
    blames,
    samples: samplesFor(products),
  });
  made.set(shape, definition);
  return definition;
}

/** With every factor 1, a sum of so many products: just within its limit, and just over it. */
function samplesFor(products: readonly (readonly string[])[]) {
  const read = Object.fromEntries(
    products.flatMap((paths, index): [string, unknown][] => {
      const factors = paths.map((_, factor): [string, number] => [nameOf(index, factor), 1]);
      return isOverEntries(paths) ? [[`entries${index + 1}`, [Object.fromEntries(factors)]]] : factors;
    }),
  );
  // The limit is a role or a parameter; both are told by this name.
  return { holds: [{ ...read, [MOST]: products.length }], fails: [{ ...read, [MOST]: products.length - 0.1 }] };
}

function isOverEntries(paths: readonly string[]): boolean {
  return paths.some((path) => path.includes('*'));
}

function nameOf(product: number, factor: number): string {
  return `factor${product + 1}_${factor + 1}`;
}

/**
 * A sum of products stays within a limit: `totalAtMost([['price', 'amount']], 'limit')` for fields,
 * `totalAtMost([['lines.*.price', 'lines.*.count']], 500)` over the entries of a list. Counted exactly; blames the factors
 * (or the list).
 *
 * @param products for each product the paths of its factors
 * @param most a number, or the path of a field
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
    const named = Object.fromEntries(factors.map((path, factor) => [nameOf(index, factor), path]));
    if (isOverEntries(factors)) roles[`entries${index + 1}`] = named;
    else Object.assign(roles, named);
  }
  return bind(definitionFor(paths, hasField), roles, hasField ? {} : { most }, use) as never;
};
