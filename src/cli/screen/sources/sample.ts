import { hashOf } from '../../claims/claim-list.ts';
import { cut } from '../../reading/piece.ts';
import type { Range, Source } from '../folder/job.ts';
import { sourceBytes } from './bytes.ts';

/** Rows that are taken one behind the other, so that few places of a file are read. */
const BLOCK = 50;

/** Some rows of all, in blocks that stand as far from each other as can be; each keeps its number. */
export function sampled(sources: readonly Source[], ranges: readonly Range[], rows: number): readonly Range[] {
  const last = ranges.at(-1);
  const total = last ? last.rowsBefore + last.rows : 0;
  if (total <= rows) return ranges;
  const blocks = Math.ceil(rows / BLOCK);
  const chosen: Range[] = [];
  for (let block = 0; block < blocks; block++) {
    const first = Math.floor((block * total) / blocks);
    const end = first + Math.min(BLOCK, rows - block * BLOCK);
    // A block may begin in one range, and end in another.
    for (const range of ranges) {
      const [from, to] = [Math.max(first, range.rowsBefore), Math.min(end, range.rowsBefore + range.rows)];
      if (from < to)
        chosen.push({ ...part(sources[range.source] as Source, range, from - range.rowsBefore, to - from), index: chosen.length });
    }
  }
  return chosen;
}

/** Some rows of a range. */
function part(source: Source, range: Range, skipped: number, rows: number): Range {
  const { format, delimiter } = source;
  if (format === 'table') return range;
  const from = Number(range.from);
  const bytes = sourceBytes(source, from, Number(range.to));
  const form = (before: number) => ({ format, rowsBefore: before, ...(delimiter !== undefined && { delimiter }) });
  const before = skipped === 0 ? { end: 0, rows: 0, lines: 0 } : cut(bytes, form(range.rowsBefore), true, skipped);
  const own = cut(bytes.subarray(before.end), form(range.rowsBefore + before.rows), true, rows);
  const start = from + before.end;
  const end = start + own.end;
  return {
    ...range,
    from: start,
    to: end,
    since: start,
    hash: hashOf(bytes.subarray(before.end, before.end + own.end)),
    rows: own.rows,
    rowsBefore: range.rowsBefore + skipped,
    linesBefore: range.linesBefore + before.lines,
  };
}
