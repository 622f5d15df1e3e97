import { existsSync } from 'node:fs';
import { basename, extname } from 'node:path';
import type { IntakeDraft } from '../../drafts/draft.ts';
import { intakesOf } from '../../published/index.ts';
import { rowsOf } from '../audit/tables.ts';
import type { Context } from '../basics/context.ts';
import { Misuse } from '../basics/misuse.ts';
import { counted } from '../basics/terminal.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import type { Format } from '../reading/data.ts';
import { readData, readJsonFile } from '../reading/read-data.ts';
import { askedFields } from './asked.ts';
import { draftFromTable } from './from-table.ts';
import { guessedFields } from './guessed.ts';
import { namedFields } from './named-fields.ts';
import { Profile } from './profile.ts';
import { tableIn } from './table-facts.ts';

export interface NewFlags {
  readonly from?: string;
  readonly table?: string;
  readonly schema?: string;
  readonly to: string;
  readonly input?: Format;
  readonly delimiter?: string;
}

/** A draft, and what it was made from, to be judged by what is written. */
export interface Made {
  readonly draft: IntakeDraft;
  /** How submissions of its source are read. */
  readonly as: 'json' | 'form';
  /** The source again; `undefined` where it holds none. */
  readonly rows?: () => AsyncIterable<unknown>;
  readonly source: string | undefined;
  readonly database?: OpenedDatabase;
  /** Warnings, as sentences. */
  readonly notes: readonly string[];
}

/** A draft from what is named, asked for, or there already. */
export async function madeFrom(name: string, fields: readonly string[], flags: NewFlags, context: Context): Promise<Made> {
  const { from } = flags;
  if (from === undefined) {
    if (flags.table !== undefined || flags.schema !== undefined)
      throw new Misuse('--table and --schema say which part of --from is meant; name that, too.');
    if (fields.length === 0 && context.stdout.isTTY !== true)
      throw new Misuse('Name the fields, such as: jestril new guest name nights:whole notes?:text; or take them --from a file or a table.');
    const named = fields.length > 0 ? fields : await askedFields(name);
    return {
      draft: { name, fields: namedFields(named), rules: [], refusesStrangers: false, remarks: [] },
      as: 'json',
      source: undefined,
      notes: [],
    };
  }
  if (fields.length > 0) throw new Misuse('Name fields, or take them --from somewhere; not both.');
  if (isDatabase(from)) return fromTable(name, from, flags);
  const document = isDocument(from, flags) ? await readJsonFile(from, context.stdin) : undefined;
  return isPublished(document) ? fromDocument(name, from, document, flags) : fromRows(name, from, flags, context);
}

/** Only what is JSON as a whole can be a description. */
function isDocument(from: string, { input }: NewFlags): boolean {
  return input === undefined ? extname(from) === '.json' : input === 'json';
}

function isPublished(document: unknown): document is { readonly [keyword: string]: unknown } {
  if (typeof document !== 'object' || document === null || Array.isArray(document)) return false;
  return (
    ['openapi', 'swagger', '$schema', '$defs', '$ref'].some((keyword) => keyword in document) ||
    ('properties' in document && 'type' in document)
  );
}

function fromDocument(name: string, from: string, document: object, { schema }: NewFlags): Made {
  const published = intakesOf(document, { name, blanks: false });
  const wanted =
    schema ?? (published.drafts.size === 1 ? [...published.drafts.keys()][0] : ((document as { title?: string }).title ?? name));
  const draft = wanted === undefined ? undefined : published.drafts.get(wanted);
  if (!draft) {
    const why = published.refused.filter(({ of }) => of === wanted);
    if (why.length > 0)
      throw new Misuse(`${basename(from)}: "${wanted}" cannot be an intake: ${why.map((each) => `${each.at}: ${each.why}`).join('; ')}.`);
    throw new Misuse(`${basename(from)} describes several; choose one with --schema: ${[...published.drafts.keys()].join(', ')}.`);
  }
  const notes = published.notes.filter(({ of }) => of === wanted).map(({ at, why }) => `${at}: ${why}.`);
  return {
    draft: {
      ...draft,
      name,
      remarks: [`From ${basename(from)}. A text that must be there is never blank here; add .blankAllowed() where one may be.`],
    },
    as: 'json',
    source: basename(from),
    notes,
  };
}

async function fromRows(name: string, from: string, flags: NewFlags, context: Context): Promise<Made> {
  const labels = new Map<string, string>();
  const notes: string[] = [];
  let as = 'json' as 'json' | 'form';
  const options = {
    ...(flags.input && { input: flags.input }),
    ...(flags.delimiter !== undefined && { delimiter: flags.delimiter }),
    pathOf: (column: string) => pathOf(column, labels),
    isField: () => true,
    begun: ({ format }: { readonly format: Format }) => {
      as = format === 'csv' || format === 'form' ? 'form' : 'json';
    },
  };
  let profile: Profile | undefined;
  let unread = 0;
  for await (const datum of readData(from, context.stdin, options)) {
    profile ??= new Profile(as === 'form');
    if ('submission' in datum && typeof datum.submission === 'object' && datum.submission !== null) profile.add(datum.submission);
    else unread++;
  }
  if (!profile || profile.objects === 0) throw new Misuse(`${from} holds no row to guess from.`);
  if (unread > 0) notes.push(`${counted(unread, 'row')} of ${from} cannot be read, and ${unread === 1 ? 'was' : 'were'} left out.`);
  const { fields, leftOut } = guessedFields(profile, { count: profile.objects, what: 'rows' }, labels);
  const count = profile.objects.toLocaleString('en');
  const draft = {
    name,
    fields,
    rules: [],
    refusesStrangers: false,
    remarks: [
      `Guessed from ${basename(from)} (${count} rows). Review each line, and take its remark away.`,
      ...leftOut.map((each) => `${each}.`),
    ],
  };
  const rows = async function* (): AsyncGenerator<unknown> {
    for await (const datum of readData(from, context.stdin, options))
      if ('submission' in datum && typeof datum.submission === 'object' && datum.submission !== null) yield datum.submission;
  };
  // What came through a pipe is gone.
  return { draft, as, source: basename(from), notes, ...(existsSync(from) && { rows }) };
}

/** A column's name as a path; of words for people a key is made, and they are its label. */
function pathOf(column: string, labels: Map<string, string>): string {
  if (/^[a-z_$][\w$]*([.[][\w$\].[]*)?$/.test(column)) return column;
  const words = column
    .normalize('NFD')
    .replaceAll(/\p{M}/gu, '')
    .split(/[^A-Za-z0-9]+/)
    .filter(Boolean)
    .map((word) => (/^[A-Z0-9]+$/.test(word) ? word.toLowerCase() : word));
  const key = words.map((word, at) => (at === 0 ? word.charAt(0).toLowerCase() : word.charAt(0).toUpperCase()) + word.slice(1)).join('');
  const safe = /^[A-Za-z]/.test(key) ? key : `column${key}`;
  labels.set(safe, column.trim());
  return safe;
}

async function fromTable(name: string, from: string, { table = name }: NewFlags): Promise<Made> {
  const database = await databaseAt(from);
  try {
    const found = await tableIn(database, table);
    const key = found.columns.filter(({ isKey }) => isKey).map((column) => column.name);
    const order = key.length > 0 ? key : found.columns.map((column) => column.name);
    const chunks = () => rowsOf(database, table, order, undefined, 1000);
    const draft = await draftFromTable(name, database, table, chunks());
    const rows = async function* (): AsyncGenerator<unknown> {
      for await (const some of chunks()) yield* some;
    };
    return { draft, as: 'json', source: table, notes: [], database, rows };
  } catch (cause) {
    await database.close();
    throw cause;
  }
}
