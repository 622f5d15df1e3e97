import { closeSync, existsSync, fstatSync, openSync, readSync, statSync } from 'node:fs';
import { Misuse } from '../../basics/misuse.ts';
import { hashOf } from '../../claims/claim-list.ts';
import type { Range, Source } from '../folder/job.ts';

/** Rows that are not those that a screening was begun with: what was judged of them would be of two files. */
export class OtherSource extends Misuse {}

/** The bytes of a range, which are what they were. */
export function checkedBytes({ since = 0, from, to, hash, rows, rowsBefore }: Range, source: Source): Uint8Array {
  const bytes = sourceBytes(source, since, Number(to));
  if (hashOf(bytes) !== hash)
    throw new OtherSource(
      `${source.name} is not what it was when the screening began (rows ${rowsBefore + 1} to ${rowsBefore + rows} of all); begin another with the file as it is now.`,
    );
  return bytes.subarray(Number(from) - since);
}

/** Whether files are still what they were cut from: one that was touched since is read and compared. */
export function checkSources(sources: readonly Source[], ranges: readonly Range[]): void {
  for (const [number, source] of sources.entries()) {
    const { path, size, time, copy } = source;
    // What is judged of what is at an address is the copy.
    if (path === undefined || size === undefined) continue;
    if (!existsSync(path)) throw new OtherSource(`There is no file ${path} any more; the screening was begun with it.`);
    const found = statSync(path);
    if (found.size !== size) throw otherLength(source);
    if (found.mtimeMs === time) continue;
    if (copy !== undefined)
      throw new OtherSource(`${source.name} was changed since the screening began; begin another with the file as it is now.`);
    for (const range of ranges) if (range.source === number) checkedBytes(range, source);
  }
}

function otherLength({ name }: Source): OtherSource {
  return new OtherSource(`${name} is not as long as when the screening began; begin another with the file as it is now.`);
}

/** Some bytes of a file. */
export function sourceBytes(source: Source, from: number, to: number): Buffer {
  const { path, copy, size } = source;
  const opened = openSync(copy ?? (path as string), 'r');
  try {
    if (copy === undefined && fstatSync(opened).size !== size) throw otherLength(source);
    const bytes = Buffer.alloc(to - from);
    for (let at = 0; at < bytes.length; ) {
      const read = readSync(opened, bytes, at, bytes.length - at, from + at);
      if (read === 0) throw otherLength(source);
      at += read;
    }
    return bytes;
  } finally {
    closeSync(opened);
  }
}
