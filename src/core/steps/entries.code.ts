import type { ListStep } from '../plan/plan.ts';
import { type CodeWriter, countsOnly, indexes, type Where } from './code.ts';

/** The frame `e` of an entry, with what was read of it. */
export function frameOf({ size, item }: ListStep, read: string): string {
  return `const e = [${Array.from({ length: size }, () => 'undefined').join(', ')}]; e[${item.slot}] = ${read};`;
}

export function checkEntries(writer: CodeWriter, step: ListStep, at: Where): string {
  return countsOnly(step) ? writer.checks(step, at) : `return judgeValue(run, ${writer.hold(step)}, v, ${indexes(at.entries)});`;
}

export function entriesValue(writer: CodeWriter, step: ListStep, frame: string, before: string[]): string {
  const made = writer.name('m');
  before.push(`const ${made} = valueIn(${writer.hold(step)}, ${frame});`);
  return made;
}
