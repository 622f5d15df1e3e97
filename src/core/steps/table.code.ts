import type { ListStep } from '../plan/plan.ts';
import { calls, indexes, type StepCode } from './code.ts';
import { checkEntries, entriesValue, frameOf } from './entries.code.ts';

export const tableCode: StepCode<ListStep> = {
  isLoose: () => false,
  read(writer, step, at) {
    const name = writer.name('i');
    const inside = { way: `${at.way}.item`, entries: [...at.entries, name], frame: 'e' };
    const item = writer.field(step.item, inside, (raw) => `let ${raw}; try { ${raw} = s[${name}]; } catch { ${raw} = BROKEN; }`);
    return `const n = ${calls(writer, step, 'namesOf', at)}(run, ${writer.hold(step)}, r, ${indexes(at.entries)}); if (n === undefined) return UNSOUND; const v = [];
for (const ${name} of n) { ${frameOf(step, writer.call(item, 'r', inside))} v.push(e); } v.names = n; ${checkEntries(writer, step, at)}`;
  },
  value: entriesValue,
};
