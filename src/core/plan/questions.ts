import { UNREADABLE } from '../kinds/kind.ts';
import type { Reads } from '../rules/definition.ts';
import type { LookUpSpec } from '../stored/look-up.ts';
import type { Answer, Question, Records, StoredRow, Term } from '../stored/records.ts';
import type { Scalar, Why } from '../verdict.ts';
import type { TimeLimit } from './time-limit.ts';

// Merges what rules ask into few questions: the same key is asked once, and the keys of one collection and
// condition go together.

type Key = readonly Exclude<Scalar, null>[];

/** Why an answer is missing. */
export interface NoAnswer {
  readonly why: Why;
  readonly cause?: unknown;
}

/** One key of one question, and its answer once it is there. */
export class Cell {
  answer: readonly StoredRow[] | number | NoAnswer | undefined;
  constructor(readonly key: Key) {}
}

interface Draft {
  readonly collection: LookUpSpec['collection'];
  readonly terms: readonly Term[];
  readonly want: Question['want'];
  readonly most: number | undefined;
  readonly columns: Set<string>;
  readonly cells: Map<string, Cell>;
}

/** The questions of one judgement, asked in rounds. */
export class Questions {
  readonly #open = new Map<string, Draft>();
  readonly #asked = new Map<string, { readonly columns: ReadonlySet<string>; readonly cells: Map<string, Cell> }>();

  get isEmpty(): boolean {
    return this.#open.size === 0;
  }

  /** The cell that will hold the answer; one cell for all who ask the same. */
  want(spec: LookUpSpec, read: Reads, itself: Reads | undefined): Cell {
    const asked = spec.collection.only.length === 0 ? spec.terms : [...spec.terms, ...spec.collection.only];
    const terms: Term[] = asked.map(({ column, is }) => ({ column, is }));
    const key = asked.map((term) => (term.role === undefined ? term.exactly : read[term.role])) as Exclude<Scalar, null>[];
    if (spec.exceptItself && itself) {
      const { key: column } = spec.collection;
      terms.push({ column, is: 'otherThan' });
      key.push(itself[column] as Exclude<Scalar, null>);
    }
    const want = spec.want === 'count' || spec.want === 'exists' ? spec.want : 'rows';
    // One row more than wanted tells whether there are several.
    const most = spec.want === 'all' ? spec.most : want === 'rows' ? 2 : undefined;
    const name = JSON.stringify([spec.collection.name, terms, want, most]);
    const columns = columnsOf(spec);
    const keyText = JSON.stringify(key);
    const earlier = this.#asked.get(name);
    const known = earlier?.cells.get(keyText);
    if (known && columns.every((column) => earlier?.columns.has(column))) return known;
    return this.#draft(name, { collection: spec.collection, terms, want, most }, columns, keyText, key);
  }

  #draft(name: string, what: Omit<Draft, 'columns' | 'cells'>, columns: readonly string[], keyText: string, key: Key): Cell {
    let draft = this.#open.get(name);
    if (!draft) {
      draft = { ...what, columns: new Set(), cells: new Map() };
      this.#open.set(name, draft);
    }
    for (const column of columns) draft.columns.add(column);
    const cell = draft.cells.get(keyText) ?? new Cell(key);
    draft.cells.set(keyText, cell);
    return cell;
  }

  /** Asks everything open in one call, and fills the cells. Never rejects. */
  async ask(records: Records, limit: TimeLimit): Promise<void> {
    const drafts = [...this.#open.values()];
    for (const [name, draft] of this.#open) this.#asked.set(name, draft);
    this.#open.clear();
    const questions = drafts.map(
      ({ collection, terms, want, most, columns, cells }): Question => ({
        collection: collection.name,
        terms,
        columns: [...columns],
        want,
        ...(most !== undefined && { most }),
        keys: Array.from(cells.values(), ({ key }) => key),
        kinds: kindsOf(collection, [...terms.map(({ column }) => column), ...columns]),
      }),
    );
    try {
      const answers = await limit.race(records.ask(questions, limit.signal));
      for (const [index, draft] of drafts.entries()) fill(draft, answers[index]);
    } catch (cause) {
      const why = limit.why ?? 'unavailable';
      for (const draft of drafts) for (const cell of draft.cells.values()) cell.answer ??= { why, cause };
    }
  }
}

/** The columns to fetch: those that the rule reads, and those that look-ups inside start from. */
function columnsOf(spec: LookUpSpec): string[] {
  const columns = new Set(spec.columns);
  for (const inner of Object.values(spec.inner)) {
    for (const { role } of inner.terms) if (role !== undefined && role in spec.collection.columns) columns.add(role);
  }
  // A row has to be told from no row, so at least its key is fetched.
  if (columns.size === 0 && spec.want !== 'count' && spec.want !== 'exists') columns.add(spec.collection.key);
  return [...columns];
}

function kindsOf({ columns }: LookUpSpec['collection'], named: readonly string[]): Question['kinds'] {
  return Object.fromEntries(named.map((column) => [column, columns[column]?.spec.name ?? '']));
}

function fill(draft: Draft, answer: Answer | undefined): void {
  if (answer?.length !== draft.cells.size) {
    throw new TypeError(`The records answered ${answer?.length ?? 0} of ${draft.cells.size} keys of ${draft.collection.name}.`);
  }
  let index = 0;
  for (const cell of draft.cells.values()) cell.answer = answer[index++] as readonly StoredRow[] | number;
}

/** Reads the columns of a stored row by their kinds; `undefined` when one of them is not of its kind. */
export function readRow(spec: LookUpSpec, row: StoredRow): { readonly [column: string]: unknown } | undefined {
  const read: { [column: string]: unknown } = {};
  for (const column of columnsOf(spec)) {
    const role = spec.collection.columns[column] as LookUpSpec['collection']['columns'][string];
    const raw = row[column];
    if ((raw === null || raw === undefined) && role.maybe) continue;
    const value = role.spec.stored(raw);
    if (value === UNREADABLE) return undefined;
    read[column] = value;
  }
  return read;
}
