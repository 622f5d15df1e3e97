import { nearest } from '../core/basics/fault.ts';
import { kindOf } from '../core/basics/known.ts';
import { type RoleSpec, UNREADABLE } from '../core/declared/kind.ts';
import type { LookUpSpec } from '../core/declared/look-up.ts';
import type { Definition } from '../core/declared/rule.ts';

// A sample proves something only where its rule could be given the like: every value by its kind, under a name that there is.

/** What is wrong with a sample, or nothing. */
export function problemOfSample(
  { reads, looksUp, takes, isOurs }: Definition,
  sample: { readonly [name: string]: unknown },
): string | undefined {
  const names = [...Object.keys(reads), ...Object.keys(looksUp), ...Object.keys(takes)];
  // Ready-made rules tell their samples by words of their own.
  if (isOurs) return undefined;
  for (const name of Object.keys(sample))
    if (!names.includes(name))
      return `the sample has a value for "${name}", which is no role, look-up or parameter; ${nearest(name, names)}`;
  for (const [name, spec] of Object.entries(looksUp)) {
    if (!(name in sample) && (spec.form.gives !== 'row' || spec.form.mustExist)) return `the sample does not say what "${name}" found`;
    const problem = problemOfFound(name, spec, sample[name]);
    if (problem) return problem;
  }
  for (const [what, roles] of [
    ['role', reads],
    ['parameter', takes],
  ] as const)
    for (const [name, role] of Object.entries(roles)) {
      const problem = problemOfRole(`${what} "${name}"`, role, sample[name]);
      if (problem) return problem;
    }
  return undefined;
}

function problemOfRole(what: string, role: RoleSpec, value: unknown): string | undefined {
  const { entry, maybe, spec } = role;
  if (value === undefined) return maybe ? undefined : `the sample has nothing for ${what}`;
  if (!entry) return isOfKind(spec, value) ? undefined : `${what} of the sample is ${kindOf(value)}, and no ${spec.name}`;
  if (!Array.isArray(value)) return `${what} of the sample is ${kindOf(value)}, and no list of entries`;
  for (const [at, each] of value.entries()) {
    if (typeof each !== 'object' || each === null) return `entry ${at + 1} of ${what} of the sample is ${kindOf(each)}`;
    for (const name of Object.keys(each)) if (!(name in entry)) return `entry ${at + 1} of ${what} has "${name}", which is no role of it`;
    for (const [name, inner] of Object.entries(entry)) {
      const problem = problemOfRole(`role "${name}" of entry ${at + 1} of ${what}`, inner, (each as { [name: string]: unknown })[name]);
      if (problem) return problem;
    }
  }
  return undefined;
}

function isOfKind(kind: RoleSpec['spec'], value: unknown): boolean {
  try {
    return (kind.value ?? kind.json)(value) !== UNREADABLE;
  } catch {
    return false;
  }
}

/** What a look-up found has to be what it can find. */
function problemOfFound(name: string, spec: LookUpSpec, found: unknown): string | undefined {
  const { form, columns, collection } = spec;
  const column = collection.columns[columns[0] ?? ''];
  const is = (what: string) => `what "${name}" found is ${kindOf(found)} in the sample, and not ${what}`;
  const nothing = form.nothing(spec);
  if (found === undefined && 'value' in nothing && nothing.value === undefined) return undefined;
  switch (form.gives) {
    case 'flag':
      return typeof found === 'boolean' ? undefined : is('true or false');
    case 'count':
      return Number.isSafeInteger(found) && (found as number) >= 0 ? undefined : is('a number of rows');
    case 'value':
      return column && isOfKind(column.spec, found) ? undefined : is(`a value of kind ${column?.spec.name}`);
    case 'rows':
      if (!Array.isArray(found)) return is('a list of rows');
      return found.map((row) => problemOfRow(name, spec, row)).find((problem) => problem !== undefined);
    case 'row':
      return problemOfRow(name, spec, found);
  }
}

function problemOfRow(name: string, { columns, collection, inner }: LookUpSpec, row: unknown): string | undefined {
  if (typeof row !== 'object' || row === null || Array.isArray(row))
    return `what "${name}" found is ${kindOf(row)} in the sample, and no row`;
  const known = [...columns, ...Object.keys(inner)];
  const values = row as { readonly [column: string]: unknown };
  for (const column of Object.keys(values))
    if (!known.includes(column)) return `"${name}" finds no column "${column}"; ${nearest(column, known)}`;
  for (const column of columns) {
    const role = collection.columns[column] as RoleSpec;
    const problem = problemOfRole(`column "${column}" of "${name}"`, role, values[column]);
    if (problem) return problem;
  }
  for (const [nested, spec] of Object.entries(inner)) {
    const problem = problemOfFound(`${name}.${nested}`, spec, values[nested]);
    if (problem) return problem;
  }
  return undefined;
}
