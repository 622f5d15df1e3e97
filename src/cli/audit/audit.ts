import { existsSync } from 'node:fs';
import type { Finding, Unsettled, Verdict } from '../../core/basics/verdict.ts';
import { graphOf } from '../../core/beside.ts';
import { planOf } from '../../core/intake.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { refuseSame } from '../basics/same-file.ts';
import { columns, counted, lookOf } from '../basics/terminal.ts';
import { progressOf } from '../check/progress.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import { readData, readJsonFile } from '../reading/read-data.ts';
import { type JudgingFlags, settingsFor } from '../records/settings.ts';
import { Fixes } from './fixes.ts';
import { type By, remember, type State, stateIn } from './state.ts';
import { type Mapping, mappingOf } from './stored-rows.ts';
import { type Key, keyOf, type Row, rowsOf } from './tables.ts';

export interface AuditFlags extends JudgingFlags {
  readonly intake?: string;
  readonly table?: string;
  readonly fixes?: string;
  readonly state?: string;
  readonly rows: number;
  readonly format: 'text' | 'json';
}

export async function audit(module: string, from: string, flags: AuditFlags, context: Context): Promise<Exit> {
  for (const name of ['fixes', 'state'] as const)
    refuseSame(`--${name}`, flags[name], [from, module, flags.records, flags.given, ...(name === 'fixes' ? [flags.state] : [])]);
  const intake = await loadIntake(module, flags.intake);
  const plan = planOf(intake);
  const database = isDatabase(from) ? await databaseAt(from) : undefined;
  try {
    if (!database && flags.state !== undefined) throw new Misuse('--state is for a database; a file of rows is read as a whole.');
    // A file of several collections is asked itself.
    const asked = flags.records ?? (!database && (await isOfCollections(from, intake, context.stdin)) ? from : undefined);
    const settings = await settingsFor(intake, { ...flags, ...(asked !== undefined && { records: asked }) }, context);
    try {
      const records = settings.options.records ?? database?.records;
      const run = new Audit(intake, plan, flags, context, { ...settings.options, ...(records && { records }) });
      return await run.run(database ? tableRows(database, plan, flags, run.state) : fileRows(from, plan, flags, context));
    } finally {
      await settings.close();
    }
  } finally {
    await database?.close();
  }
}

async function* tableRows(
  database: OpenedDatabase,
  { name, storedIn }: Plan,
  flags: AuditFlags,
  { after }: State,
): AsyncGenerator<readonly Row[]> {
  const table = flags.table ?? storedIn?.name;
  if (table === undefined)
    throw new Misuse(`Intake "${name}" says of no collection that it is stored there (storedIn); name the table with --table.`);
  yield* rowsOf(database, table, storedIn?.key ?? ['id'], after, flags.rows);
}

/** Whether a file has the rows of collections by their names. */
async function isOfCollections(path: string, { collections }: LoadedIntake, stdin: Context['stdin']): Promise<boolean> {
  if (!/\.json$/i.test(path) || !existsSync(path)) return false;
  const held = await readJsonFile(path, stdin);
  return typeof held === 'object' && held !== null && collections.some(({ name }) => Array.isArray((held as Row)[name]));
}

/** Rows of a file; of one that holds several collections those of the table. */
async function* fileRows(
  path: string,
  { name, storedIn }: Plan,
  { table = storedIn?.name }: AuditFlags,
  context: Context,
): AsyncGenerator<readonly Row[]> {
  for await (const datum of readData(path, context.stdin, { pathOf: (column) => column, isField: () => true })) {
    if (!('submission' in datum)) throw new Misuse(`${path}: ${datum.unreadable}.`);
    const row = datum.submission as Row;
    const inside = table === undefined ? undefined : row?.[table];
    if (Array.isArray(inside)) yield inside as readonly Row[];
    else if (typeof row === 'object' && row !== null) yield [row];
    else throw new Misuse(`${path} holds something that is no record of "${name}".`);
  }
}

class Audit {
  state: State;
  readonly #intake: LoadedIntake;
  readonly #plan: Plan;
  readonly #flags: AuditFlags;
  readonly #context: Context;
  readonly #options: object;
  readonly #reads: ReadonlyMap<string, readonly string[]>;
  #mapping: Mapping | undefined;
  readonly #fixes: Fixes | undefined;

  constructor(intake: LoadedIntake, plan: Plan, flags: AuditFlags, context: Context, options: object) {
    this.#intake = intake;
    this.#plan = plan;
    this.#flags = flags;
    this.#context = context;
    this.#options = options;
    this.#reads = new Map(graphOf(intake).rules.map(({ use, reads }) => [use, reads]));
    this.state = stateIn(flags.state);
    this.#fixes = flags.fixes === undefined ? undefined : new Fixes(flags.fixes, plan, this.state.after !== undefined);
  }

  async run(batches: AsyncIterable<readonly Row[]>): Promise<Exit> {
    const progress = progressOf(undefined, process.stderr.isTTY === true);
    const key = this.#plan.storedIn?.key ?? ['id'];
    for await (const { row, verdict } of this.#judged(batches, key)) {
      progress.read(1);
      progress.judged(1);
      this.#count(row, key, verdict);
    }
    progress.end();
    const { format } = this.#flags;
    await this.#context.out(format === 'json' ? this.#json() : this.#text());
    return this.state.refused > 0 ? EXIT.rejected : this.state.undecided > 0 ? EXIT.undecided : EXIT.accepted;
  }

  /** Every row with its verdict, all of them together: of two that want one unique value, the second is told. */
  async *#judged(batches: AsyncIterable<readonly Row[]>, key: readonly string[]) {
    const rows: Row[] = [];
    const keys = new WeakMap<object, Row>();
    const flags = this.#flags;
    const reader = async function* (this: Audit) {
      for await (const batch of batches) {
        for (const row of batch) {
          this.#mapping ??= this.#mapped(Object.keys(row));
          const submission = this.#mapping.read(row);
          keys.set(submission, row);
          rows.push(row);
          yield submission;
        }
      }
    }.bind(this);
    const itself = (submission: unknown) => {
      const row = keys.get(submission as object);
      const all = key.map((column) => [column, row?.[column]] as const);
      return this.#plan.storedIn && all.every(([, value]) => value !== undefined && value !== null) ? Object.fromEntries(all) : undefined;
    };
    let seen = 0;
    let last: Row | undefined;
    for await (const { verdict } of this.#intake.judgeMany(reader(), { ...this.#options, itself, report: 'everything' } as never)) {
      const row = rows.shift() as Row;
      yield { row, verdict: verdict as Verdict<unknown> };
      last = row;
      if (++seen % flags.rows === 0) this.#remember(keyOf(row, key));
    }
    if (last) this.#remember(keyOf(last, key));
  }

  #mapped(columns: readonly string[]): Mapping {
    const mapping = mappingOf(this.#plan, columns);
    if (mapping.loaded.size === 0)
      throw new Misuse(
        `None of the columns ${columns.slice(0, 8).join(', ')} is a field of "${this.#plan.name}"; name its table with --table.`,
      );
    return mapping;
  }

  #count(row: Row, key: readonly string[], verdict: Verdict<unknown>): void {
    const findings = (verdict.outcome === 'rejected' ? verdict.findings : []).filter(
      ({ severity, ...finding }) => severity === 'error' && this.#isLoaded(finding),
    );
    const open = verdict.unsettled.filter(({ severity, ...each }) => severity === 'error' && this.#isLoaded(each));
    const { sound, refused, undecided, by } = this.state;
    const told: { [use: string]: By } = { ...by };
    for (const { use, places, message } of findings) {
      const known = told[use];
      told[use] = known
        ? { ...known, count: known.count + 1 }
        : { field: places[0]?.field ?? '', count: 1, example: { key: keyText(row, key), message } };
    }
    if (findings.length > 0)
      this.#fixes?.add(
        row,
        findings.map(({ message }) => message),
      );
    const trials = { ...this.state.trials };
    for (const { use, outcome } of verdict.trials ?? []) if (outcome === 'failed') trials[use] = (trials[use] ?? 0) + 1;
    const undone = { ...this.state.open };
    for (const { use, why } of findings.length > 0 ? [] : open) undone[use] = { count: (undone[use]?.count ?? 0) + 1, why };
    const isOpen = findings.length === 0 && open.length > 0;
    this.state = {
      sound: sound + (findings.length + open.length === 0 ? 1 : 0),
      refused: refused + (findings.length > 0 ? 1 : 0),
      undecided: undecided + (isOpen ? 1 : 0),
      by: told,
      open: undone,
      trials,
      ...(this.state.after && { after: this.state.after }),
    };
  }

  /** Whether all that a rule reads was loaded: of what is kept elsewhere, or not at all, nothing can be said. */
  #isLoaded({ use, places }: Pick<Finding | Unsettled, 'use' | 'places'>): boolean {
    const paths = this.#reads.get(use) ?? places.map(({ field }) => field);
    return paths.every((path) => {
      const [first = ''] = path.split('.');
      return this.#mapping?.loaded.has(first) === true || this.#plan.given.keys.has(first);
    });
  }

  /** What is written is never behind what is remembered. */
  #remember(after: Key): void {
    this.state = { ...this.state, after };
    this.#fixes?.flush();
    remember(this.#flags.state, this.state);
  }

  #notLoaded(): string[] {
    return this.#plan.fields.steps.filter(({ key }) => !this.#mapping?.loaded.has(key)).map(({ key }) => key);
  }

  #text(): string {
    const look = lookOf(this.#context.stdout);
    const { sound, refused, undecided, by } = this.state;
    const total = sound + refused + undecided;
    const parts: string[] = [];
    const rows = Object.entries(by)
      .sort(([, a], [, b]) => b.count - a.count)
      .map(([use, { count, field, example }]) => [count.toLocaleString('en'), use, field, `${example.key}: ${example.message}`]);
    if (rows.length > 0) parts.push(`${look.paint.bold('What would be refused, by rule')}\n${columns(look, rows)}\n\n`);
    const open = Object.entries(this.state.open).map(([use, { count, why }]) => [count.toLocaleString('en'), use, why]);
    if (open.length > 0) parts.push(`${look.paint.bold('Undecided, by rule')}\n${columns(look, open)}\n\n`);
    if (open.some(([, , why]) => why === 'not-asked'))
      parts.push('Name what is stored with --records, and rules that ask for it are decided.\n');
    const missing = this.#notLoaded();
    if (missing.length > 0 && total > 0)
      parts.push(`Not in the table, and left aside with the rules that read them: ${missing.join(', ')}.\n`);
    const trials = Object.entries(this.state.trials);
    if (trials.length > 0)
      parts.push(
        `${look.paint.bold('On trial, without effect')}\n${columns(
          look,
          trials.map(([use, count]) => [use, `would refuse ${count.toLocaleString('en')}`]),
        )}\n\n`,
      );
    parts.push(
      `${counted(total, 'record')}: ${sound.toLocaleString('en')} would be accepted, ${refused.toLocaleString('en')} refused, ${undecided.toLocaleString('en')} undecided.\n`,
    );
    return parts.join('');
  }

  #json(): string {
    const { sound, refused, undecided, by, open, trials } = this.state;
    return `${JSON.stringify({ version: 1, records: sound + refused + undecided, sound, refused, undecided, notLoaded: this.#notLoaded(), by, open, trials })}\n`;
  }
}

function keyText(row: Row, key: readonly string[]): string {
  return key.map((column) => `${column} ${JSON.stringify(row[column])}`).join(', ');
}
