import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { stringify } from 'csv-stringify/sync';
import type { Finding, Unsettled, Verdict } from '../../core/basics/verdict.ts';
import { graphOf } from '../../core/beside.ts';
import { planOf } from '../../core/intake.ts';
import type { Plan } from '../../core/plan/plan.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { columns, counted, lookOf } from '../basics/terminal.ts';
import { progressOf } from '../check/progress.ts';
import { fieldsByColumn } from '../reading/columns.ts';
import { readData } from '../reading/read-data.ts';
import { databaseAt, isDatabase, type OpenedDatabase } from '../records/database-at.ts';
import { type JudgingFlags, settingsFor } from '../records/settings.ts';
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

/** How far an audit is. */
interface State {
  readonly after?: Key;
  readonly sound: number;
  readonly refused: number;
  readonly undecided: number;
  readonly by: { readonly [use: string]: By };
}

/** What a rule refuses among what is stored. */
interface By {
  readonly field: string;
  readonly count: number;
  readonly example: { readonly key: string; readonly message: string };
}

export async function audit(module: string, from: string, flags: AuditFlags, context: Context): Promise<Exit> {
  const intake = await loadIntake(module, flags.intake);
  const plan = planOf(intake);
  const database = isDatabase(from) ? await databaseAt(from) : undefined;
  try {
    if (!database && (flags.table !== undefined || flags.state !== undefined))
      throw new Misuse('--table and --state are for a database; a file of rows is read as a whole.');
    const settings = await settingsFor(intake, flags, context);
    try {
      const records = settings.options.records ?? database?.records;
      const run = new Audit(intake, plan, flags, context, { ...settings.options, ...(records && { records }) });
      return await run.run(database ? tableRows(database, plan, flags, run.state) : fileRows(from, intake, context));
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

async function* fileRows(path: string, intake: LoadedIntake, context: Context): AsyncGenerator<readonly Row[]> {
  const { isField } = fieldsByColumn(intake);
  for await (const datum of readData(path, context.stdin, { pathOf: (column) => column, isField })) {
    if (!('submission' in datum)) throw new Misuse(`${path}: ${datum.unreadable}.`);
    yield [datum.submission as Row];
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
  #hasFixes = false;

  constructor(intake: LoadedIntake, plan: Plan, flags: AuditFlags, context: Context, options: object) {
    this.#intake = intake;
    this.#plan = plan;
    this.#flags = flags;
    this.#context = context;
    this.#options = options;
    this.#reads = new Map(graphOf(intake).rules.map(({ use, reads }) => [use, reads]));
    this.state = stateIn(flags.state);
    // An audit that goes on writes behind what it has written.
    this.#hasFixes = this.state.after !== undefined && flags.fixes !== undefined && existsSync(flags.fixes);
  }

  async run(batches: AsyncIterable<readonly Row[]>): Promise<Exit> {
    const progress = progressOf(undefined, process.stderr.isTTY === true);
    const key = this.#plan.storedIn?.key ?? ['id'];
    for await (const { row, verdict } of this.#judged(batches, key)) {
      progress.read(1);
      progress.judged();
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
          this.#mapping ??= mappingOf(this.#plan, Object.keys(row));
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
    for await (const { verdict } of this.#intake.judgeMany(reader(), { ...this.#options, itself, report: 'everything' } as never)) {
      const row = rows.shift() as Row;
      yield { row, verdict: verdict as Verdict<unknown> };
      if (++seen % flags.rows === 0) this.#remember({ ...this.state, after: keyOf(row, key) });
    }
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
    if (findings.length > 0) this.#fix(row, findings);
    const isOpen = findings.length === 0 && open.length > 0;
    this.state = {
      sound: sound + (findings.length + open.length === 0 ? 1 : 0),
      refused: refused + (findings.length > 0 ? 1 : 0),
      undecided: undecided + (isOpen ? 1 : 0),
      by: told,
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

  #fix(row: Row, findings: readonly Finding[]): void {
    const { fixes } = this.#flags;
    if (fixes === undefined) return;
    const told = findings.map(({ message }) => message);
    const isCsv = /\.csv$/i.test(fixes);
    const line = isCsv
      ? stringify([[...Object.values(row).map(cellOf), told.join(' ')]])
      : `${JSON.stringify({ ...row, '#findings': told })}\n`;
    const header = isCsv ? stringify([[...Object.keys(row), '#findings']]) : '';
    try {
      writeFileSync(fixes, this.#hasFixes ? line : header + line, { flag: this.#hasFixes ? 'a' : 'w', mode: 0o600 });
    } catch (cause) {
      throw new Misuse(`${fixes} cannot be written: ${(cause as Error).message}.`);
    }
    this.#hasFixes = true;
  }

  /** Written aside and put in its place, so that there is always a whole one. */
  #remember(state: State): void {
    this.state = state;
    const { state: path } = this.#flags;
    if (path === undefined) return;
    writeFileSync(`${path}.new`, JSON.stringify(state));
    renameSync(`${path}.new`, path);
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
    const missing = this.#notLoaded();
    if (missing.length > 0 && total > 0)
      parts.push(`Not in the table, and left aside with the rules that read them: ${missing.join(', ')}.\n`);
    parts.push(
      `${counted(total, 'record')}: ${sound.toLocaleString('en')} would be accepted, ${refused.toLocaleString('en')} refused, ${undecided.toLocaleString('en')} undecided.\n`,
    );
    return parts.join('');
  }

  #json(): string {
    const { sound, refused, undecided, by } = this.state;
    return `${JSON.stringify({ version: 1, records: sound + refused + undecided, sound, refused, undecided, notLoaded: this.#notLoaded(), by })}\n`;
  }
}

function stateIn(path: string | undefined): State {
  const none: State = { sound: 0, refused: 0, undecided: 0, by: {} };
  if (path === undefined || !existsSync(path)) return none;
  try {
    return JSON.parse(readFileSync(path, 'utf8')) as State;
  } catch {
    throw new Misuse(`${path} holds no state of an audit; name another file, or take it away to begin anew.`);
  }
}

function keyText(row: Row, key: readonly string[]): string {
  return key.map((column) => `${column} ${JSON.stringify(row[column])}`).join(', ');
}

function cellOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString();
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}
