import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Misuse } from '../../basics/misuse.ts';
import { rowsIn } from '../../reading/rows-in.ts';
import { JobFolder, type Manifest, type Range, type Source } from '../../screen/folder/job.ts';
import { checkedBytes } from '../../screen/sources/bytes.ts';
import type { Row } from './row.ts';

/** The rows of a screening, read from its files as long as they are what was screened. */
export class Screened {
  readonly manifest: Manifest;
  readonly verdicts: string;
  readonly #ranges: readonly Range[];

  /** @throws Misuse for a folder without a screening, or one that is not done */
  constructor(path: string) {
    const folder = new JobFolder(path);
    this.manifest = folder.manifest();
    this.verdicts = join(path, 'verdicts.ndjson');
    if (!folder.has('summary.json'))
      throw new Misuse(`The screening in ${path} is not done; look again once it is, or go on with it: jestril screen start … --resume`);
    this.#ranges = folder.ranges();
  }

  /** @throws Misuse where it cannot be read, or is another than was screened */
  row(number: number): Row {
    const range = this.#ranges.findLast(({ rowsBefore }) => rowsBefore < number);
    const source = range && this.manifest.sources[range.source];
    if (!range || !source) throw new Misuse(`There is no row ${number}.`);
    const { format, columns, delimiter, name } = readable(source);
    if (format === 'table') throw new Misuse(`Row ${number} is one of the table ${name}; look it up in its database.`);
    const piece = {
      ...range,
      file: name,
      format,
      from: Number(range.from),
      bytes: checkedBytes(range, source),
      ...(columns && { columns }),
      ...(delimiter !== undefined && { delimiter }),
    };
    const datum = rowsIn(piece)[number - range.rowsBefore - 1];
    return datum && 'submission' in datum
      ? { submission: datum.submission, as: this.manifest.as }
      : { problem: datum?.unreadable ?? 'It is not there.' };
  }
}

/** A source that was copied to be read is gone with what was needed on the way. */
function readable(source: Source): Source {
  const { copy, path, name } = source;
  if (copy !== undefined && !existsSync(copy))
    throw new Misuse(`${name} was copied to be read, and the copy is gone with the screening; check it as a file to look at its rows.`);
  if (copy === undefined && path !== undefined && !existsSync(path)) throw new Misuse(`There is no file ${path} any more.`);
  return source;
}

/** When a file was changed last, in milliseconds. */
export function changedAt(path: string): number {
  return statSync(path).mtimeMs;
}
