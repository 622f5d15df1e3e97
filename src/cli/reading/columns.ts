import { nearest } from '../../core/basics/fault.ts';
import type { Texts } from '../../core/basics/text.ts';
import { planOf } from '../../core/intake.ts';
import { walkSteps } from '../../core/plan/walk.ts';
import type { PathOf } from './csv.ts';

/** Finds the fields of an intake by what columns are called: paths, or labels in any of its languages. */
export function fieldsByColumn(intake: { readonly name: string }): {
  readonly pathOf: PathOf;
  readonly isField: (word: string) => boolean;
} {
  const paths = new Set<string>();
  const labels = new Map<string, string>();
  const byCase = new Map<string, string>();
  walkSteps(planOf(intake).fields, ({ place: { path, label } }) => {
    paths.add(path);
    const key = path.toLowerCase();
    byCase.set(key, byCase.has(key) ? '' : path);
    // A label that two fields have says nothing.
    for (const word of wordsOf(label)) labels.set(word, labels.has(word) ? '' : path);
  });
  const declared = (column: string) => column.replaceAll(/\[([^[\]]*)\]/g, '.$1').replaceAll(/\.\d+(?=\.|$)/g, '.*');
  const isPath = (column: string) => paths.has(declared(column)) || paths.has(column);
  const byLabel = (column: string) => labels.get(column.trim().toLowerCase()) || byCase.get(column.toLowerCase()) || undefined;
  return {
    pathOf: (column) => (isPath(column) ? column : (byLabel(column) ?? column)),
    isField: (word) => isPath(word) || byLabel(word) !== undefined,
  };
}

/** What to say of columns that are no fields; `undefined` where all are. */
export function strangersAmong(
  intake: { readonly name: string },
  file: string,
  names: readonly (string | undefined)[],
): string | undefined {
  const { isField } = fieldsByColumn(intake);
  const paths: string[] = [];
  walkSteps(planOf(intake).fields, ({ place: { path } }) => paths.push(path));
  const strangers = names.filter((name): name is string => name !== undefined && !isField(name) && !isInside(name, paths));
  if (strangers.length === 0) return undefined;
  const told = strangers.map((name) => {
    const near = nearest(name, paths);
    return near.startsWith('did you mean') ? `"${name}" (${near})` : `"${name}"`;
  });
  return `${file}: ${strangers.length === 1 ? 'the column' : 'the columns'} ${told.join(', ')} ${strangers.length === 1 ? 'is no field' : 'are no fields'}.\n`;
}

/** A column may hold an entry of a table, or of a list of single values. */
function isInside(name: string, paths: readonly string[]): boolean {
  const parts = name.split('.');
  return paths.some((path) => {
    const wanted = path.split('.');
    return wanted.length === parts.length && wanted.every((part, at) => part === '*' || part === parts[at]);
  });
}

function wordsOf(label: Texts): string[] {
  return (typeof label === 'string' ? [label] : Object.values(label)).map((word) => word.trim().toLowerCase());
}
