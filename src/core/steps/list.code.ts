import type { ListStep } from '../plan/plan.ts';
import { calls, countsOnly, indexes, isLoose, LOOSE, type StepCode, slotIn } from './code.ts';
import { checkEntries, entriesValue, frameOf } from './entries.code.ts';

export const listCode: StepCode<ListStep> = {
  isDirect: countsOnly,
  isLoose: countsOnly,
  read(writer, step, at) {
    const index = writer.name('i');
    const isDirect = writer.direct.has(step);
    const inside = { way: `${at.way}.item`, entries: [...at.entries, index], frame: isDirect ? LOOSE : 'e' };
    const item = writer.field(step.item, inside, (raw) => `let ${raw}; try { ${raw} = s[${index}]; } catch { ${raw} = BROKEN; }`);
    const read = writer.call(item, 'r', inside);
    const entry = isDirect ? `v.push(${read});` : `${frameOf(step, read)} v.push(e);`;
    return `const n = ${calls(writer, step, 'lengthOf', at)}(run, ${writer.hold(step)}, r, ${indexes(at.entries)}); if (n < 0) return UNSOUND; const v = [];
for (let ${index} = 0; ${index} < n; ${index}++) { ${entry} } ${checkEntries(writer, step, at)}`;
  },
  value: (writer, step, frame, before) =>
    isLoose(frame) || writer.direct.has(step) ? slotIn(step, frame) : entriesValue(writer, step, frame, before),
};
