import { type Call, type CollectionDraft, call, Name } from '../../drafts/draft.ts';
import { constantOf } from '../../drafts/written.ts';
import type { ColumnFacts, OpenedDatabase } from '../databases/sort.ts';
import { kindOfType, type TableFound, tableIn } from './table-facts.ts';

/** Rules that look into what is stored, and the collections that they look into, the table's own first. */
export interface StoredRules {
  readonly collections: readonly CollectionDraft[];
  readonly rules: readonly Call[];
}

/** What the unique keys and the references of a table imply for the fields that an intake has. */
export async function storedRules(
  intake: string,
  { columns, unique, references }: TableFound,
  table: string,
  fields: ReadonlySet<string>,
  opened: OpenedDatabase,
): Promise<StoredRules> {
  const collections = new Collections(intake);
  const key = columns.filter(({ isKey }) => isKey).map(({ name }) => name);
  const own = collections.add(table, columns, key.length > 0 ? key : columns.map(({ name }) => name));
  const rules: Call[] = [];
  const seen = new Set<string>();
  for (const { columns: keyed, within } of unique) {
    const names = keyed.map(({ name }) => name);
    if (within !== undefined || seen.has(names.join()) || !names.every((name) => fields.has(name))) continue;
    seen.add(names.join());
    collections.add(table, columns, names);
    const folded = keyed.filter(({ ignoresCase }) => ignoresCase).map(({ name }) => name);
    const bound = Object.fromEntries(names.map((name) => [name, name]));
    rules.push(call('unique', new Name(own), bound, ...(folded.length > 0 ? [{ ignoringCase: folded }] : [])));
  }
  for (const { table: other, columns: from, referred } of references) {
    if (!from.every((column) => fields.has(column))) continue;
    const there = other === table ? columns : (await tableIn(opened, other)).columns;
    const to = referred.length > 0 ? referred : there.filter(({ isKey }) => isKey).map(({ name }) => name);
    const constant = collections.add(other, there, to);
    rules.push(call('known', new Name(constant), Object.fromEntries(to.map((column, at) => [column, from[at] as string]))));
  }
  return { collections: collections.all(), rules };
}

/** Collections with the columns that some rule asks for. */
class Collections {
  readonly #intake: string;
  readonly #drafts = new Map<string, CollectionDraft>();

  constructor(intake: string) {
    this.#intake = constantOf(intake);
  }

  /** The constant of a table's collection, with these columns in it. The first ones are its key. */
  add(table: string, facts: readonly ColumnFacts[], columns: readonly string[]): string {
    const known = this.#drafts.get(table);
    const plain = constantOf(table.slice(table.indexOf('.') + 1));
    const constant = plain === this.#intake ? `${plain}Rows` : plain;
    const wanted = new Set([...Object.keys(known?.columns ?? {}), ...columns]);
    const kinds = facts
      .filter(({ name }) => wanted.has(name))
      .map(({ name, type, options }) => [name, (options.length > 0 ? undefined : kindOfType(type)?.made) ?? 'text'] as const);
    this.#drafts.set(table, { constant, name: table, columns: Object.fromEntries(kinds), key: known?.key ?? columns });
    return constant;
  }

  all(): readonly CollectionDraft[] {
    return [...this.#drafts.values()];
  }
}
