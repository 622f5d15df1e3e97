import { createReadStream, existsSync, readFileSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { stringify } from 'csv-stringify/sync';
import { OutFile } from '../../basics/out-file.ts';
import { RejectedFile, type RowForm } from '../../screening/rejected.ts';
import type { JobFolder, Manifest, Outcome, Source } from '../folder/job.ts';

// What is written of the rows of a screening besides their verdicts: those that were not accepted, as they came, and the values of the others.

/** Writes what was asked for, in the order of the rows; a file stands there whole, or as it was. */
export async function writeRows(folder: JobFolder, { writes, sources }: Manifest, outcomes: readonly Outcome[]): Promise<void> {
  const { rejected, accepted } = writes;
  if (rejected !== undefined) {
    const file = new RejectedFile(rejected);
    for (const { format, columns, delimiter } of sources)
      file.begin({
        format: format === 'table' ? 'ndjson' : format,
        ...(columns && { columns }),
        ...(delimiter !== undefined && { delimiter }),
      });
    for (const outcome of outcomes) {
      const part = folder.partOf(outcome, 'rejected.json');
      if (existsSync(part)) await file.add(JSON.parse(readFileSync(part, 'utf8')) as string[]);
    }
    await file.end();
  }
  if (accepted === undefined) return;
  const file = new OutFile(accepted, { mode: 0o600 });
  if (/\.csv$/i.test(accepted)) await writeCsv(file, () => valuesOf(folder, outcomes));
  else for await (const { text } of valuesOf(folder, outcomes)) await file.write(`${text}\n`);
  await file.end();
}

/** How the rows of a source are written again. */
export function rowFormOf({ format, columns, delimiter }: Source): RowForm {
  return { format: format === 'table' ? 'ndjson' : format, ...(columns && { columns }), ...(delimiter !== undefined && { delimiter }) };
}

/** The values that were accepted, with the numbers of their rows, as they are and as JSON. */
export async function* valuesOf(
  folder: JobFolder,
  outcomes: readonly Outcome[],
): AsyncGenerator<{ readonly row: number; readonly text: string }> {
  for (const outcome of outcomes) {
    const part = folder.partOf(outcome, 'accepted.ndjson');
    if (!existsSync(part)) continue;
    for await (const line of createInterface({ input: createReadStream(part), crlfDelay: Number.POSITIVE_INFINITY })) {
      const comma = line.indexOf(',');
      yield { row: Number(line.slice(1, comma)), text: line.slice(comma + 1, -1) };
    }
  }
}

type Cells = Map<string, string>;

/** A column for every value that some row has, in the order in which they are met; lists and groups by paths, as they are read again. */
async function writeCsv(file: OutFile, values: () => AsyncIterable<{ readonly text: string }>): Promise<void> {
  const columns = new Set<string>();
  for await (const { text } of values()) for (const path of cellsOf(text).keys()) columns.add(path);
  const row = (cells: readonly string[]) => stringify([cells as string[]]);
  await file.write(row([...columns]));
  for await (const { text } of values()) {
    const cells = cellsOf(text);
    await file.write(row([...columns].map((path) => cells.get(path) ?? '')));
  }
}

function cellsOf(text: string): Cells {
  const cells: Cells = new Map();
  const add = (path: string, value: unknown) => {
    if (typeof value === 'object' && value !== null)
      for (const [name, inner] of Object.entries(value)) add(path === '' ? name : `${path}.${name}`, inner);
    else if (value !== undefined && value !== null) cells.set(path, String(value));
  };
  add('', JSON.parse(text));
  return cells;
}
