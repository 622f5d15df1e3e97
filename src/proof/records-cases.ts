import { exactOf } from '../core/basics/exact.ts';
import { UNREADABLE } from '../core/declared/kind.ts';
import type { Comparison } from '../core/declared/look-up.ts';
import { collectionSpec } from '../core/declared/look-up.ts';
import type { Answer, Question, Records, StoredRow, Term } from '../core/stored/records.ts';
import { memoryRecords } from '../records/memory.ts';
import type { ProofCase } from './rule-cases.ts';
import { BERTHS, HOSTILE, NIGHTS, NONE, sampleTables, WORDS } from './sample-tables.ts';

// What every store has to answer, whatever holds its rows. What is right is what records in memory answer of the same rows.

type AskedKey = Question['keys'][number];
type Is = readonly [column: string, is: Comparison, more?: Omit<Term, 'column' | 'is'>];

const ORDERED: readonly Comparison[] = ['equal', 'otherThan', 'above', 'notAbove', 'below', 'notBelow'];
/** Values between those that are stored, and at both ends. */
const BETWEEN: { readonly [column: string]: AskedKey } = {
  id: [0, 1000],
  metres: [12.125, -4, 100],
  price: ['38.499', '-2.1', '1000', '10.05'],
  since: ['2031-04-30', '1970-01-01', '2100-01-01'],
  until: ['2031-06-01', '1970-01-01', '2100-01-01'],
  seen: ['2031-05-01T09:30:00.249Z', '1970-01-01T00:00:00.000Z', '2100-01-01T00:00:00.000Z'],
  opens: ['00:01', '12:01', '23:58'],
};

const { signal } = new AbortController();
const memory = memoryRecords(Object.fromEntries(Object.entries(sampleTables).map(([name, { rows }]) => [name, rows])));

function question(of: { readonly name: string }, terms: readonly Is[], keys: readonly AskedKey[], more: Partial<Question> = {}): Question {
  const { columns } = collectionSpec(of);
  return {
    collection: of.name,
    terms: terms.map(([column, is, rest]) => ({ column, is, ...rest })),
    columns: more.want === 'rows' ? Object.keys(columns) : [],
    want: 'exists',
    keys,
    storedAs: Object.fromEntries(Object.entries(columns).map(([column, { spec }]) => [column, spec.storedAs ?? 'any'])),
    ...more,
  };
}
const rows = (most = 100) => ({ want: 'rows', most }) as const;
const first = rows(1);
const BY_KEY = { column: 'id', from: 'lowest' } as const;
const count = { want: 'count' } as const;

/** What is tried: records, and where it can be told how rows are stored. */
interface Tried {
  readonly records: Records;
  readonly insert?: (table: string, row: StoredRow) => Promise<unknown>;
}

/** The cases of a store, for running them as tests; `opened` gives the records that hold the sample tables. */
export function recordsCases(open: () => Tried): ProofCase[] {
  const opened = () => open().records;
  const answers = (name: string, questions: readonly Question[]): ProofCase => ({ name, run: () => differenceOf(opened(), questions) });
  return [
    ...Object.keys(BETWEEN).map((column) =>
      answers(
        `${column}: ${ORDERED.join(', ')}`,
        ORDERED.map((is) => question(BERTHS, [[column, is]], keysOf(column), rows())),
      ),
    ),
    answers('texts and flags: equal, otherThan', [
      ...(['equal', 'otherThan'] as const).flatMap((is) => [
        question(BERTHS, [['code', is]], [['A1'], ['Z9'], ['C2'], ['']], rows()),
        question(BERTHS, [['pier', is]], [['north'], ['nowhere']], rows()),
        question(BERTHS, [['lit', is]], [[true], [false]], rows()),
      ]),
    ]),
    answers('ignoringCase', [question(BERTHS, [['code', 'ignoringCase']], [['a1'], ['A1'], ['b2'], ['z9'], ['a_'], ['a%']], rows())]),
    answers('missing, and orMissing', [
      question(BERTHS, [['pier', 'missing', { isFixed: true }]], [[true]], rows()),
      question(BERTHS, [['until', 'above', { orMissing: true }]], [['2031-05-31'], ['2100-01-01']], rows()),
      question(BERTHS, [['pier', 'equal', { orMissing: true }]], [['west'], ['nowhere']], rows()),
    ]),
    answers('a row answers a key when all terms hold', [
      question(
        BERTHS,
        [
          ['since', 'below'],
          ['until', 'above', { orMissing: true }],
          ['lit', 'equal', { isFixed: true }],
          ['id', 'otherThan'],
        ],
        [
          ['2031-05-02', '2031-05-01', true, 99],
          ['2031-05-02', '2031-05-01', true, 1],
          ['2100-01-01', '2031-05-01', false, 99],
        ],
        rows(),
      ),
      question(
        BERTHS,
        [
          ['metres', 'notBelow'],
          ['metres', 'below'],
        ],
        [
          [0, 9],
          [9, 12.5],
          [9, 9],
        ],
        count,
      ),
    ]),
    answers('alternatives, and columns compared with each other', [
      question(
        BERTHS,
        [
          ['pier', 'equal', { isFixed: true }],
          ['lit', 'equal', { isFixed: true }],
          ['metres', 'above'],
          ['code', 'equal'],
        ],
        [
          ['north', true, 10, 'C2'],
          ['west', true, -10, 'none'],
          ['west', false, 100, 'none'],
        ],
        {
          ...rows(),
          either: [
            [[0], [3]],
            [[1, 2], [3]],
          ],
        },
      ),
      question(BERTHS, [['since', 'equal', { than: 'until' }]], [[true]], rows()),
      question(BERTHS, [['until', 'above', { than: 'since' }]], [[true]], rows()),
      question(BERTHS, [['until', 'notAbove', { than: 'since' }]], [[true]], count),
    ]),
    answers('the first in an order, and sums', [
      ...(['price', 'metres', 'since', 'until', 'seen', 'opens'] as const).flatMap((column) =>
        (['highest', 'lowest'] as const).flatMap((from) => [
          question(BERTHS, [['pier', 'equal']], [['north'], ['south'], ['none']], { ...first, order: [{ column, from }, BY_KEY] }),
          question(BERTHS, [['id', 'notBelow']], [[0], [4], [1000]], { ...first, order: [{ column, from }, BY_KEY] }),
        ]),
      ),
      question(BERTHS, [['pier', 'equal']], [['north']], { ...rows(3), order: [{ column: 'lit', from: 'lowest' }, BY_KEY] }),
      ...(['id', 'price', 'metres'] as const).map((column) => ({
        ...question(BERTHS, [['id', 'notBelow']], [[0], [4], [7], [1000]], { want: 'sum' }),
        columns: [column],
      })),
    ]),
    answers('one answer a key, in the order of the keys, of three thousand', [
      question(BERTHS, [['code', 'equal']], many, rows(2)),
      question(BERTHS, [['code', 'equal']], many),
      question(NIGHTS, [['berth', 'equal']], [...many, ['A2'], ['none']], count),
    ]),
    answers('rows up to `most` of each key, and the count of all', [
      question(NIGHTS, [['berth', 'equal']], [['A2'], ['none'], ['A1']], rows(1000)),
      question(NIGHTS, [['berth', 'equal']], [['A1'], ['A2']], count),
    ]),
    { name: 'no more than `most` rows of each key, and no fewer', run: () => cutAt(opened(), 7) },
    answers('texts are found as they are, whatever characters they hold', [
      question(
        WORDS,
        [['word', 'equal']],
        HOSTILE.map((word) => [word]),
        rows(),
      ),
      question(
        WORDS,
        [['word', 'equal']],
        ['%', '_', 'b_', 'c%', '', "'", '\\', '10', 'h*', 'nul'].map((word) => [word]),
      ),
    ]),
    answers('a collection without rows', [
      question(NONE, [['id', 'equal']], [[1], [2]], rows()),
      question(NONE, [['id', 'equal']], [[1]], count),
      question(NONE, [['id', 'equal']], [[1]]),
    ]),
    answers('many questions of one call, in their order', [
      question(BERTHS, [['code', 'equal']], [['A1']], count),
      question(NIGHTS, [['berth', 'equal']], [['A1']], count),
      question(BERTHS, [['code', 'equal']], [['A2']], rows()),
      question(BERTHS, [['code', 'equal']], [['Z9']]),
      question(WORDS, [['word', 'otherThan']], [['null']], count),
    ]),
    answers('terms that are the same for all keys, such as whose rows are asked for', [
      ...[['north'], ['west']].map(([pier = '']) =>
        question(
          BERTHS,
          [
            ['code', 'equal'],
            ['pier', 'equal', { isFixed: true }],
          ],
          [
            ['A1', pier],
            ['C2', pier],
          ],
          rows(),
        ),
      ),
      question(BERTHS, [['pier', 'equal', { isFixed: true }]], [['north']], count),
    ]),
    { name: 'letters of the other case are found alike by every form, one key or many', run: () => foldsAlike(opened()) },
    { name: 'twenty calls at once have their own answers', run: () => atOnce(opened()) },
    { name: 'a collection that is not there is refused, and not taken for empty', run: () => refuses(opened()) },
    { name: 'an error that is no refusal of a constraint is not translated', run: () => keepsErrors(opened()) },
    { name: 'a key that is there already is told as a conflict of its collection', run: () => tellsConflict(open()) },
  ];
}

const many: readonly AskedKey[] = Array.from({ length: 3000 }, (_, index) => [
  index % 700 === 350 ? 'B1' : index === 2999 ? 'C2' : `none ${index}`,
]);

function keysOf(column: string): AskedKey[] {
  const stored = sampleTables.sample_berths?.rows.map((row) => row[column]) as AskedKey;
  return [...new Set([...stored, ...(BETWEEN[column] as AskedKey)])].filter((value) => value !== null).map((value) => [value]);
}

async function differenceOf(records: Records, questions: readonly Question[]): Promise<string | undefined> {
  const [wanted, got] = await Promise.all([memory.ask(questions, signal), records.ask(questions, signal)]);
  if (got?.length !== questions.length) return `${questions.length} questions were asked, and ${got?.length} were answered`;
  for (const [at, asked] of questions.entries()) {
    const answer = got[at];
    if (!Array.isArray(answer) || answer.length !== asked.keys.length)
      return `${told(asked)}: there are ${asked.keys.length} keys, and ${Array.isArray(answer) ? answer.length : 'no'} answers`;
    for (const [index, key] of asked.keys.entries()) {
      const [want, have] = [(wanted[at] as Answer | undefined)?.[index], answer[index]].map((each) => JSON.stringify(shown(asked, each)));
      if (want !== have) return `${told(asked)} ${JSON.stringify(key)}: expected ${want}, got ${have}`;
    }
  }
  return undefined;
}

const told = ({ collection, terms, want }: Question) =>
  `${want} of ${collection} where ${terms.map(({ column, is, orMissing }) => `${column} is ${is}${orMissing ? ' or missing' : ''}`).join(', ')}`;

/** An answer as rules would read it, rows by their key. */
function shown({ want, collection, columns }: Question, answer: unknown): unknown {
  if (want === 'sum') return exactOf(answer ?? 0) ?? { odd: String(answer) };
  if (want !== 'rows') return typeof answer === 'number' ? answer : { odd: String(answer) };
  if (!Array.isArray(answer)) return { odd: String(answer) };
  const { columns: kinds } = collectionSpec([BERTHS, WORDS, NIGHTS, NONE].find(({ name }) => name === collection) as { name: string });
  const read = answer.map((row: StoredRow) =>
    columns.map((column) => {
      const raw = row[column];
      const value = raw === null || raw === undefined ? null : kinds[column]?.spec.stored(raw);
      return value === UNREADABLE ? { unreadable: `${column}: ${String(raw)}` } : value;
    }),
  );
  return read.sort(([a], [b]) => Number(a) - Number(b));
}

async function cutAt(records: Records, most: number): Promise<string | undefined> {
  const berths = ['A1', 'A2'];
  const asked = question(
    NIGHTS,
    [['berth', 'equal']],
    berths.map((berth) => [berth]),
    rows(most),
  );
  const [answer] = (await records.ask([asked], signal)) as readonly (readonly StoredRow[][])[];
  for (const [index, berth] of berths.entries()) {
    const got = answer?.[index] ?? [];
    const own = new Set(got.filter((row) => row.berth === berth).map((row) => row.id)).size;
    if (got.length !== most || own !== most)
      return `${told(asked)} "${berth}", ${most} at most: got ${got.length} rows, ${own} of them its own`;
  }
  return undefined;
}

/** Which texts are alike is the store's own affair; that it is the same for whatever is asked is not. */
async function foldsAlike(records: Records): Promise<string | undefined> {
  const keys: AskedKey[] = [['A1'], ['a1'], ['B2'], ['b2'], ['z9']];
  const forms = [rows(), count, {}].map((more) => question(BERTHS, [['code', 'equal']], keys, more));
  const found = (answer: Answer | Error | undefined, at: number) => {
    const each = Array.isArray(answer) ? answer[at] : undefined;
    return Array.isArray(each) ? each.length : Number(each);
  };
  const together = await records.ask(forms, signal);
  for (const [at, key] of keys.entries()) {
    const alone = await records.ask(
      forms.map((form) => ({ ...form, keys: [key] })),
      signal,
    );
    const numbers = [...forms.keys()].flatMap((form) => [found(together[form], at), found(alone[form], 0)]);
    // Whether there is any row is all that the last form says.
    if (new Set(numbers.map((number) => number > 0)).size > 1 || new Set(numbers.slice(0, 4)).size > 1)
      return `code is equal ${JSON.stringify(key)}: ${numbers.join(', ')} were found, by rows, count and exists, among many keys and alone`;
  }
  return undefined;
}

async function atOnce(records: Records): Promise<string | undefined> {
  const codes = Array.from({ length: 20 }, (_, index) => ['A1', 'A2', 'B1', 'Z9'][index % 4] as string);
  const problems = await Promise.all(codes.map((code) => differenceOf(records, [question(BERTHS, [['code', 'equal']], [[code]], rows())])));
  return problems.find((problem) => problem !== undefined);
}

async function refuses(records: Records): Promise<string | undefined> {
  const asked = { ...question(NONE, [['id', 'equal']], [[1]], count), collection: 'sample_that_is_not_there' };
  return records.ask([asked], signal).then(
    ([answer]) => (answer instanceof Error ? undefined : `expected that it rejects, or gives an error, got ${JSON.stringify(answer)}`),
    () => undefined,
  );
}

/** Only where the store says how rows are stored. */
async function tellsConflict({ records, insert }: Tried): Promise<string | undefined> {
  const { name } = NONE;
  if (!insert) return undefined;
  await insert(name, { id: 1 });
  const error = await insert(name, { id: 1 }).then(
    () => undefined,
    (caught: unknown) => ({ caught }),
  );
  if (!error) return `a second row of ${name} with the key 1 was stored; make "id" the key of every table`;
  const conflict = records.conflictOf?.(error.caught);
  const { sort, collections = [name], columns = ['id'] } = conflict ?? {};
  const isRight = sort === 'unique' && collections.includes(name) && columns.join() === 'id';
  return isRight ? undefined : `a second row of ${name} with the key 1: conflictOf gave ${JSON.stringify(conflict)}`;
}

async function keepsErrors(records: Records): Promise<string | undefined> {
  for (const error of [new Error('Something else.'), undefined, null, 'a text', { code: 'ECONNRESET' }]) {
    const conflict = records.conflictOf?.(error);
    if (conflict !== undefined) return `${String(error)} was taken for ${JSON.stringify(conflict)}`;
    const thrown = await records.orUndone?.(() => Promise.reject(error)).catch((caught: unknown) => ({ caught }));
    if (records.orUndone && (thrown as { readonly caught?: unknown } | undefined)?.caught !== error)
      return `orUndone has to throw what is thrown inside, here ${String(error)}`;
  }
  if (records.orUndone && (await records.orUndone(async () => 7)) !== 7) return 'orUndone has to give what it was given';
  return undefined;
}
