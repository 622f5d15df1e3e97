import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { stringify } from 'csv-stringify/sync';
import { Summary, type Summed } from '../../../screening/summary.ts';
import { OutFile } from '../../basics/out-file.ts';
import type { VerdictLine } from '../../screening/as-rows.ts';
import { type JobFolder, type Manifest, type Outcome, OWN } from '../folder/job.ts';
import { chartOf } from './chart.ts';
import type { Into, Stored } from './into.ts';
import { pageOf } from './page.ts';
import { writeRows } from './written.ts';

/** Rows that the table has refused which was to take them. */
export const NOT_STORED = 'not-stored.ndjson';
/** Examples kept of each rule. */
const EXAMPLES = 5;

/** Puts together what came of all ranges, in order. */
export async function gather(
  folder: JobFolder,
  manifest: Manifest,
  outcomes: readonly Outcome[],
  into: Into | undefined,
  signal: AbortSignal,
): Promise<{ readonly summed: Summed; readonly stored?: Stored }> {
  const summary = new Summary();
  const shares: { readonly rows: number; readonly counts: Summed['counts'] }[] = [];
  for (const { summed, rows } of outcomes) {
    summary.take(summed);
    shares.push({ rows, counts: summed.counts });
  }
  await writeVerdicts(folder, outcomes);
  await writeRows(folder, manifest, outcomes);
  const stored = await into?.store(folder, manifest, outcomes, signal);
  if (stored && stored.refused.length > 0) folder.put(NOT_STORED, stored.refused.map((each) => `${JSON.stringify(each)}\n`).join(''), OWN);
  const { summed } = summary;
  const chart = chartOf(manifest, summary, shares);
  folder.put('counts.csv', countsOf(summary));
  folder.put('findings.svg', chart);
  folder.put('index.html', pageOf(folder.path, manifest, { state: 'done', summary, chart }));
  // With the summary the screening is over: all else stands there by then.
  folder.put(
    'summary.json',
    `${JSON.stringify({ run: manifest.id, ...summed, found: summary.found, ...(stored && { stored: { rows: stored.stored, refused: stored.refused.length } }) }, null, 2)}\n`,
  );
  await into?.forget(manifest);
  // What is undecided may be judged again, which takes all that was found on the way.
  if (summed.counts.undecided === 0 || stored) folder.tidy();
  return { summed, ...(stored && { stored }) };
}

/** The verdicts of all rows, those that are not accepted as a table, and some of each rule as examples. */
async function writeVerdicts(folder: JobFolder, outcomes: readonly Outcome[]): Promise<void> {
  const [verdicts, table, examples] = ['verdicts.ndjson', 'not-accepted.csv', 'examples.ndjson'].map(
    (name) => new OutFile(join(folder.path, name), { more: ', and go on with --resume. Nothing that was written is lost' }),
  ) as [OutFile, OutFile, OutFile];
  const shown = new Map<string, number>();
  // A mark in front, by which spreadsheet programs know the encoding.
  await table.write(`\ufeff${row(['row', 'source', 'line', 'outcome', 'rules', 'places', 'messages'])}`);
  for (const outcome of outcomes) {
    for await (const bytes of createReadStream(folder.partOf(outcome, 'rows.ndjson'), { highWaterMark: 1_000_000 }))
      await verdicts.write(bytes as Buffer);
    const notable = createReadStream(folder.partOf(outcome, 'notable.ndjson'));
    for await (const line of createInterface({ input: notable, crlfDelay: Number.POSITIVE_INFINITY })) {
      const verdict = JSON.parse(line) as VerdictLine;
      if (verdict.outcome !== 'accepted') await table.write(row(cellsOf(verdict)));
      const uses = new Set([...(verdict.findings ?? []), ...(verdict.unsettled ?? [])].map(({ use }) => use));
      const isNew = [...uses].filter((use) => (shown.get(use) ?? 0) < EXAMPLES);
      if (isNew.length === 0) continue;
      for (const use of isNew) shown.set(use, (shown.get(use) ?? 0) + 1);
      await examples.write(`${line}\n`);
    }
  }
  for (const file of [verdicts, table, examples]) await file.end();
}

function cellsOf({ row: number, file, line, entry, outcome, findings = [], unsettled = [], problem }: VerdictLine): readonly string[] {
  return [
    String(number),
    file,
    String(line ?? entry ?? ''),
    outcome,
    [...findings, ...unsettled].map(({ use }) => use).join(' '),
    findings.flatMap(({ at }) => at).join(' '),
    problem ?? [...findings.map(({ message }) => message), ...unsettled.map(({ use, why }) => `${use}: ${why}`)].join(' '),
  ];
}

/** A row of CSV; a cell that a spreadsheet program would take for a formula is kept from being one. */
function row(cells: readonly string[]): string {
  return stringify([cells as string[]], { escape_formulas: true, record_delimiter: 'windows' });
}

function countsOf(summary: Summary): string {
  const lines = [
    ['of', 'name', 'field', 'severity', 'count', 'first in', 'message'],
    ...summary.found.map(({ use, field, severity, count, example: { origin, message } }) => [
      'rule',
      use,
      field,
      severity,
      String(count),
      `${origin.file}${origin.line === undefined ? '' : `, line ${origin.line}`}`,
      message,
    ]),
    ...summary.open.map(({ use, why, count }) => ['not decided', use, '', why, String(count), '', '']),
    ...byField(summary).map(([field, count]) => ['field', field, field, '', String(count), '', '']),
    ...Object.entries(summary.summed.sources).flatMap(([file, counts]) =>
      Object.entries(counts).map(([outcome, count]) => ['source', file, '', outcome, String(count), '', '']),
    ),
  ];
  return `\ufeff${lines.map(row).join('')}`;
}

function byField({ found }: Summary): [string, number][] {
  const counts = new Map<string, number>();
  for (const { field, count } of found) counts.set(field, (counts.get(field) ?? 0) + count);
  return [...counts].sort((one, other) => other[1] - one[1]);
}
