import type { ScalarStep } from '../plan/plan.ts';
import { isNeededText } from '../run/raw.ts';
import { indexes, type StepCode, slotIn } from './code.ts';

export const scalarCode: StepCode<ScalarStep> = {
  isLoose: ({ kind }) => !kind.copy,
  read(writer, step, at) {
    const held = writer.hold(step);
    const ix = indexes(at.entries);
    const cleans = step.cleans.map(({ apply }, index) => `v = ${writer.hold(apply, `${at.way}.cleans[${index}].apply`)}(v);`).join(' ');
    const blank = isNeededText(step) ? `if (isBlank(v)) return unsound(run, ${held}, undefined, ${ix}, 'blank'); ` : '';
    const read = `let v = ${writer.hold(step.kind.json, `${at.way}.kind.json`)}(r); if (v === UNREADABLE) return unreadable(run, ${held}, r, ${ix});`;
    return `try { ${read} ${cleans} ${blank}${writer.checks(step, at)} } catch (cause) { return faultOfKind(run, ${held}, ${ix}, cause); }`;
  },
  value(writer, step, frame, before) {
    if (!step.kind.copy) return slotIn(step, frame);
    const made = writer.name('m');
    before.push(`const ${made} = valueIn(${writer.hold(step)}, ${frame});`);
    return made;
  },
};
