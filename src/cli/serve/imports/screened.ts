import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Row } from '../../../workbench/wire/imports.ts';
import { Misuse } from '../../basics/misuse.ts';
import type { Datum } from '../../reading/data.ts';
import type { Piece } from '../../reading/piece.ts';
import { rowsIn } from '../../reading/rows-in.ts';
import { JobFolder, type Manifest, type Range, type Source } from '../../screen/folder/job.ts';
import { checkedBytes } from '../../screen/sources/bytes.ts';

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

  /**
   * @param numbers in their order
   * @throws Misuse where one cannot be read, or is another than was screened
   */
  async rows(numbers: readonly number[]): Promise<readonly Row[]> {
    const { as, sources } = this.manifest;
    let read: { readonly range: Range; readonly data: readonly Datum[] } | undefined;
    const rows: Row[] = [];
    for (const number of numbers) {
      const range = this.#ranges.findLast(({ rowsBefore }) => rowsBefore < number) as Range;
      if (read?.range !== range) {
        read = { range, data: rowsIn(pieceIn(range, sources[range.source] as Source)) };
        // Others are answered between two ranges, each of which takes some time.
        await new Promise((resolve) => setImmediate(resolve));
      }
      const datum = read.data[number - range.rowsBefore - 1];
      rows.push(
        datum && 'submission' in datum ? { submission: datum.submission, as } : { problem: datum?.unreadable ?? 'it is not there' },
      );
    }
    return rows;
  }
}

function pieceIn(range: Range, source: Source): Piece {
  const { format, columns, delimiter, name } = readable(source);
  if (format === 'table') throw new Misuse(`The rows are those of the table ${name}; look them up in its database.`);
  return {
    ...range,
    file: name,
    format,
    from: Number(range.from),
    bytes: checkedBytes(range, source),
    ...(columns && { columns }),
    ...(delimiter !== undefined && { delimiter }),
  };
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
