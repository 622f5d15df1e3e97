import type { GroupStep } from '../plan/plan.ts';
import { calls, indexes, isLoose, type StepCode, slotIn } from './code.ts';

export const groupCode: StepCode<GroupStep> = {
  isLoose: ({ needed, nullAllowed }) => needed && !nullAllowed,
  read(writer, step, at) {
    const { inner } = step;
    const inside = { ...at, way: `${at.way}.inner` };
    const refused = `if (!isObject(r)) return ${calls(writer, step, 'refused', at)}(run, ${writer.hold(step)}, f, ${indexes(at.entries)});`;
    if (!isLoose(at.frame)) return `${refused} ${writer.fields(inner, 'r', { ...inside, frame: 'f' })} return PRESENT;`;
    const variables = inner.steps.map((each) => slotIn(each, at.frame));
    const declared = variables.length > 0 ? `let ${variables.join(', ')};` : '';
    return `${refused} ${declared} ${writer.fields(inner, 'r', inside)} ${writer.object(inner, at.frame, 'return ')}`;
  },
  value(writer, step, frame, before) {
    const held = slotIn(step, frame);
    if (isLoose(frame)) return held;
    const made = writer.name('m');
    before.push(`let ${made} = ${held}; if (${made} === PRESENT) { ${writer.object(step.inner, frame, `${made} = `)} }`);
    return made;
  },
};
