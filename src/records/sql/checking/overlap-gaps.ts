import type { OverlapNeed, StoreGap } from '../../../core/stored/records.ts';
import type { Exclusion } from '../tables/inspector.ts';
import type { Checked } from './checked.ts';
import { told } from './checked.ts';
import { covers, mentions } from './covering.ts';

/** The rules `noOverlap` that no constraint of the table enforces. */
export async function overlapGaps(checked: Checked): Promise<StoreGap[]> {
  const { db, inspector, table, need, facts, nameOf } = checked;
  const gaps: StoreGap[] = [];
  const exclusions = need.overlaps?.length ? ((await inspector.exclusionsOf?.(db, table)) ?? []) : [];
  for (const overlap of need.overlaps ?? []) {
    // A constraint that the rule names may be one of another table: one row a night, say.
    if (overlap.constraint !== undefined) continue;
    if ([...overlap.columns, ...overlap.interval].some((column) => !facts.columns.has(nameOf(column)))) continue;
    let isEnforced = false;
    for (const exclusion of exclusions) isEnforced ||= await enforces(checked, exclusion, overlap);
    if (!isEnforced) gaps.push(gapOf(checked, overlap));
  }
  return gaps;
}

async function enforces(
  checked: Checked,
  { alike, range, within, touching }: Exclusion,
  { columns, interval, only, ...need }: OverlapNeed,
) {
  const { nameOf } = checked;
  // One that lets intervals touch refuses less than the rule, one that does not refuses more.
  if (touching !== need.touching) return false;
  const wanted = columns.map(nameOf);
  // The fewer columns have to be alike, the more rows are refused.
  if (!alike.every((column) => wanted.includes(column)) || !interval.every((column) => mentions(range, [nameOf(column)]))) return false;
  return covers(checked, within === undefined ? [] : [within], only);
}

function gapOf({ inspector, need, facts, full, nameOf }: Checked, overlap: OverlapNeed): StoreGap {
  const { collection, storedAs = {} } = need;
  const columns = [...overlap.columns, ...overlap.interval];
  const name = [full.slice(full.indexOf('.') + 1), ...overlap.columns.map(nameOf), 'no_overlap'].join('_');
  const statement = facts.isView
    ? undefined
    : inspector.createExclusion?.(full, overlap, nameOf, storedAs[overlap.interval[0]] ?? 'any', name);
  const message = `A rule wants rows of "${collection}" that are alike in ${told(overlap.columns)} not to overlap, and nothing in the table "${full}" enforces it: two submissions at once could both be stored.`;
  const gap = { lacks: 'overlap', collection, columns } as const;
  if (statement !== undefined) return { ...gap, message, statement };
  return {
    ...gap,
    message: `${message} Store with serially, or keep one row for each step of the interval under a unique key, and name that key to the rule.`,
  };
}
