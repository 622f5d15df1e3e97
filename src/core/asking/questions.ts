import { stretchOf } from '../basics/calendar.ts';
import type { Day } from '../basics/days.ts';
import type { Circumstances, Scalar } from '../basics/verdict.ts';
import type { CollectionSpec, LookUpSpec, NoAnswer } from '../declared/look-up.ts';
import type { Reads } from '../declared/rule.ts';
import { IS_ANSWER } from '../stored/answers.ts';
import type { Answer, Question, Records, Scope } from '../stored/records.ts';
import { type Ground, type Shape, type Source, shapeOf } from './shapes.ts';
import type { TimeLimit } from './time-limit.ts';

// Merges what rules ask into few questions: the same key is asked once, and the keys of one collection and
// condition go together.

type QuestionKey = readonly Exclude<Scalar, null>[];

/** The stored record that is judged again: it belongs to the collection that the intake is stored in. */
export interface Itself {
  readonly collection: CollectionSpec;
  readonly key: Reads;
}

/** Whether a look-up asks in the collection of the record that is judged again. */
export function isOf({ collection }: LookUpSpec, itself: Itself | undefined): boolean {
  return itself?.collection === collection;
}

/** One key of one question, and its answer once it is there. */
export class Cell {
  constructor(
    readonly key: QuestionKey,
    public answer?: Answer[number] | NoAnswer,
  ) {}
}

interface QuestionDraft {
  readonly ground: Ground;
  readonly columns: Set<string>;
  readonly cells: Map<string, Cell>;
  /** Nobody asks but uses on trial: when the store cannot answer, no verdict may suffer. */
  isTrial: boolean;
}

/** The questions of one judgement, asked in rounds. */
export class Questions {
  readonly #open = new Map<string, QuestionDraft>();
  readonly #asked = new Map<string, { readonly columns: ReadonlySet<string>; readonly cells: Map<string, Cell> }>();
  readonly #scope: Scope;
  readonly #storedIn: CollectionSpec | undefined;

  /** @param storedIn where the value is stored: what is asked about others there decides about it, and must not be an old answer */
  constructor(scope: Scope = {}, storedIn?: CollectionSpec) {
    this.#scope = scope;
    this.#storedIn = storedIn;
  }

  get isEmpty(): boolean {
    return this.#open.size === 0;
  }

  /** The cell that will hold the answer, one for all who ask the same; `undefined` where there is nothing to ask with. */
  want(spec: LookUpSpec, read: Reads, itself: Itself | undefined, isTrial: boolean, at: Circumstances): Cell | undefined {
    // A record of one collection is none of another, though their keys may be called alike.
    const isExcept = spec.exceptItself && isOf(spec, itself);
    const shape = shapeOf(spec, isExcept, read);
    if (!shape) return undefined;
    let key: QuestionKey;
    try {
      key = this.#keyOf(shape.sources, read, itself, at);
    } catch (cause) {
      // The stretch of the calendar in which a day lies reaches beyond the days that there are.
      return new Cell([], { why: 'fault', cause });
    }
    const [only] = key;
    // A text that could be the JSON of another key goes the long way.
    const keyText = key.length === 1 && typeof only === 'string' && !only.startsWith('[') ? only : JSON.stringify(key);
    const earlier = this.#asked.get(shape.name);
    const known = earlier?.cells.get(keyText);
    if (known && shape.columns.every((column) => earlier?.columns.has(column))) return known;
    return this.#draft(shape, keyText, key, isTrial);
  }

  #keyOf(sources: readonly Source[], read: Reads, itself: Itself | undefined, at: Circumstances): QuestionKey {
    const [first] = sources;
    if (first?.from === 'role' && sources.length === 1) return [read[first.name] as QuestionKey[number]];
    const askedWith = (source: Source) =>
      source.from === 'rule' ? source.value : source.from === 'calendar' ? edgeOf(source, read, at) : this.#valueOf(source, read, itself);
    return sources.map((source) => askedWith(source) as QuestionKey[number]);
  }

  #valueOf({ from, name }: Exclude<Source, { readonly from: 'rule' | 'calendar' }>, read: Reads, itself: Itself | undefined): unknown {
    return from === 'role' ? read[name] : from === 'scope' ? this.#scope[name] : itself?.key[name];
  }

  #draft({ name, columns, ground }: Shape, keyText: string, key: QuestionKey, isTrial: boolean): Cell {
    let draft = this.#open.get(name);
    if (!draft) {
      draft = { ground, columns: new Set(), cells: new Map(), isTrial };
      this.#open.set(name, draft);
    }
    draft.isTrial &&= isTrial;
    for (const column of columns) draft.columns.add(column);
    let cell = draft.cells.get(keyText);
    if (!cell) {
      cell = new Cell(key);
      draft.cells.set(keyText, cell);
    }
    return cell;
  }

  /** Asks everything open in one call, and fills the cells. Never rejects. */
  async ask(records: Records, limit: TimeLimit): Promise<void> {
    const drafts = [...this.#open.values()];
    for (const [name, draft] of this.#open) this.#asked.set(name, draft);
    this.#open.clear();
    const counting = drafts.filter(({ isTrial }) => !isTrial);
    const trials = drafts.filter(({ isTrial }) => isTrial);
    if (counting.length > 0)
      await (trials.length === 0
        ? askAll(counting, records, limit, this.#storedIn)
        : Promise.all([askAll(counting, records, limit, this.#storedIn), askAll(trials, records, limit, this.#storedIn)]));
    else await askAll(trials, records, limit, this.#storedIn);
  }
}

/** Where a stretch of the calendar begins, or ends; of a column of moments, as the intake's zone has it. */
function edgeOf({ term, isMoment }: Extract<Source, { readonly from: 'calendar' }>, read: Reads, at: Circumstances): string {
  const { unit, edge } = term.calendar as NonNullable<LookUpSpec['terms'][number]['calendar']>;
  const day = stretchOf(unit, term.role === undefined ? at.today : (read[term.role] as Day))[edge];
  return isMoment ? at.startOf(day) : day;
}

async function askAll(drafts: readonly QuestionDraft[], records: Records, limit: TimeLimit, storedIn?: CollectionSpec): Promise<void> {
  const questions = drafts.map(({ ground: { collection, ...ground }, columns, cells }): Question => {
    const others = [
      ...ground.terms.flatMap(({ column, than = column }) => [column, than]),
      ...(ground.order ?? []).map(({ column }) => column),
    ];
    return {
      collection: collection.name,
      ...ground,
      ...(collection.name === storedIn?.name && { isFresh: true }),
      columns: [...columns],
      keys: Array.from(cells.values(), ({ key }) => key),
      storedAs: storedAsOf(collection, [...others, ...columns]),
    };
  });
  try {
    const answers = await limit.race(records.ask(questions, limit.signal));
    for (const [index, draft] of drafts.entries()) fill(draft, answers[index]);
  } catch (cause) {
    const why = limit.why ?? 'unavailable';
    for (const draft of drafts) for (const cell of draft.cells.values()) cell.answer ??= { why, cause };
  }
}

function storedAsOf({ columns }: CollectionSpec, named: readonly string[]): Question['storedAs'] {
  return Object.fromEntries(named.map((column) => [column, columns[column]?.spec.storedAs ?? 'any']));
}

function fill({ ground: { collection, want }, cells }: QuestionDraft, answer: Answer | Error | undefined): void {
  if (answer instanceof Error) {
    for (const cell of cells.values()) cell.answer = { why: 'unavailable', cause: answer };
    return;
  }
  if (!Array.isArray(answer) || answer.length !== cells.size) {
    const got = Array.isArray(answer) ? answer.length : 0;
    throw new TypeError(`The records answered ${got} of ${cells.size} keys of ${collection.name}.`);
  }
  let index = 0;
  for (const cell of cells.values()) {
    const each: unknown = answer[index++];
    if (!IS_ANSWER[want](each)) {
      const cause = new TypeError(`The records answered a question for ${want} in ${collection.name} with something else.`);
      cell.answer = { why: 'stored-unsound', cause };
    } else cell.answer = each as Answer[number];
  }
}
