import { existsSync } from 'node:fs';
import { join, relative } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { writtenModule } from '../../drafts/written.ts';
import { prove } from '../../proof/prove.ts';
import type { Subject } from '../../proof/subject.ts';
import { mappingOf } from '../audit/stored-rows.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake, loadModule } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { counted, lookOf, wrapped } from '../basics/terminal.ts';
import { writeNew } from '../basics/write-out.ts';
import type { Row } from './from-table.ts';
import { samplesOf, writtenProof } from './samples.ts';
import { type Made, madeFrom, type NewFlags } from './sources.ts';

export async function newIntake(name: string, fields: readonly string[], flags: NewFlags, context: Context): Promise<Exit> {
  if (!/^[A-Za-z][A-Za-z0-9-]*$/.test(name))
    throw new Misuse(`"${name}" cannot name an intake; use letters, digits and dashes, such as berth-booking.`);
  const paths = { module: join(flags.to, `${name}.ts`), proof: join(flags.to, `${name}.proof.ts`), data: join(flags.to, `${name}.ndjson`) };
  // Before anything is asked or read.
  for (const path of Object.values(paths))
    if (existsSync(path)) throw new Misuse(`${path} is there already, and is not overwritten; choose another name.`);
  const made = await madeFrom(name, fields, flags, context);
  try {
    if (Object.keys(made.draft.fields).length === 0) throw new Misuse(`${made.source ?? name} suggests no field.`);
    const samples = await samplesOf(made.draft);
    writeNew(paths.module, writtenModule([made.draft]));
    writeNew(paths.proof, writtenProof(name, samples));
    const tried = samples.good ? [samples.good, ...samples.bad.map(({ submission }) => submission)] : [];
    if (tried.length > 0) writeNew(paths.data, tried.map((each) => `${JSON.stringify(each)}\n`).join(''));
    return await tell(made, paths, tried.length, context);
  } finally {
    await made.database?.close();
  }
}

/** What was written, and what it does with what it came from. */
async function tell(
  made: Made,
  paths: { readonly module: string; readonly proof: string; readonly data: string },
  tried: number,
  context: Context,
): Promise<Exit> {
  const look = lookOf(context.stdout);
  const { paint } = look;
  const short = (path: string) => relative(process.cwd(), path) || path;
  const { proofs } = (await loadModule(paths.proof)) as unknown as { readonly proofs: readonly Subject[] };
  const [subject] = proofs as [Extract<Subject, { intake: unknown }>];
  const { isProven, problems } = await prove(subject);
  const intake = await loadIntake(paths.module, undefined);
  const guesses = JSON.stringify(made.draft.fields).split('"Guess: ').length - 1;
  const lines = [
    `${paint.bold(short(paths.module))}: ${counted(Object.keys(made.draft.fields).length, 'field')}${guesses > 0 ? `, ${paint.yellow(`${counted(guesses, 'guess', 'guesses')} to review`)}` : ''}`,
    `${paint.bold(short(paths.proof))}: ${subject.accepts.length} accepted, ${subject.rejects.length} refused; ${isProven ? paint.green('as expected') : paint.red('not as expected')}`,
    ...(tried > 0 ? [`${paint.bold(short(paths.data))}: ${counted(tried, 'submission')} to try`] : []),
    ...problems.map((problem) => wrapped(look, problem, 2)),
    ...made.draft.remarks.slice(1).map((remark) => wrapped(look, remark, 2)),
    ...made.notes.map((note) => wrapped(look, note, 2)),
  ];
  const refused = made.rows ? await judgedSource(made, made.rows(), intake) : undefined;
  if (refused) {
    const { count, told } = refused;
    const source = `${count.toLocaleString('en')} rows of ${made.source}`;
    lines.push(
      '',
      told.length === 0 ? `All ${source} are accepted.` : paint.red(`${told.length.toLocaleString('en')} of ${source} are not accepted:`),
    );
    lines.push(...told.slice(0, 5).map((each) => wrapped(look, each, 2)));
  }
  if (tried > 0)
    lines.push('', `Try it: jestril check ${short(paths.module)} ${short(paths.data)}${made.database ? ' --records <the database>' : ''}`);
  await context.out(`${lines.join('\n')}\n`);
  if (!isProven) return EXIT.failed;
  return refused && refused.told.length > 0 ? EXIT.rejected : EXIT.accepted;
}

/** What becomes of the rows that a draft was made from: those that are not accepted, with the reasons. */
async function judgedSource(
  { as, database }: Made,
  rows: AsyncIterable<unknown>,
  intake: LoadedIntake,
): Promise<{ readonly count: number; readonly told: readonly string[] }> {
  const told: string[] = [];
  let count = 0;
  const key = planOf(intake).storedIn?.key ?? [];
  const judged = intake.judgeMany(database ? mapped(rows, intake) : rows, {
    as,
    ...(database && {
      records: database.records,
      itself: (row: { readonly [ROW]: Row }) => Object.fromEntries(key.map((column) => [column, row[ROW][column]])),
    }),
  } as never);
  for await (const { verdict } of judged) {
    count++;
    if (verdict.outcome === 'accepted') continue;
    const why =
      verdict.outcome === 'rejected'
        ? verdict.findings.map(({ message }) => message)
        : verdict.unsettled.map(({ use, why: cause }) => `${use} (${cause})`);
    told.push(`row ${count}: ${why.join(' ')}`);
  }
  return { count, told };
}

const ROW = Symbol('row');

/** Rows of a table as submissions, that know where they came from. */
async function* mapped(rows: AsyncIterable<unknown>, intake: { readonly name: string }): AsyncGenerator<unknown> {
  let mapping: ReturnType<typeof mappingOf> | undefined;
  for await (const row of rows) {
    mapping ??= mappingOf(planOf(intake), Object.keys(row as Row));
    yield Object.defineProperty(mapping.read(row as Row), ROW, { value: row, enumerable: false });
  }
}
