import { literal, property } from '../basics/source.ts';
import type { ShapesStep } from '../plan/plan.ts';
import { calls, indexes, type StepCode, slotIn } from './code.ts';

export const shapesCode: StepCode<ShapesStep> = {
  isLoose: () => false,
  read(writer, step, at) {
    const cases = [...step.shapes].map(([name, fields]) => {
      const way = `${at.way}.shapes.get(${literal(name)})`;
      return `case ${literal(name)}: ${writer.fields(fields, 'r', { ...at, way, frame: 'f' })} break;`;
    });
    return `const t = ${calls(writer, step, 'tagIn', at)}(run, ${writer.hold(step)}, r, f, ${indexes(at.entries)}); switch (t) { ${cases.join('\n')} } return t;`;
  },
  value(writer, step, frame, before) {
    const made = writer.name('m');
    const cases = [...step.shapes].map(
      ([name, fields]) =>
        `case ${literal(name)}: { ${writer.object(fields, frame, `${made} = `, `${property(step.tag)}: ${literal(name)}`)} break; }`,
    );
    before.push(`let ${made} = ${slotIn(step, frame)}; switch (${made}) { ${cases.join(' ')} }`);
    return made;
  },
};
