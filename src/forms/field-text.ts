import { fault, nearest } from '../core/basics/fault.ts';
import { planOf } from '../core/intake.ts';
import { textIn } from '../core/messages/render.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { segmentsOf } from './names.ts';
import { stepsAt } from './steps-at.ts';

/** What a page says beside a control. */
export interface FieldText {
  readonly label: string;
  /** Without it the form is not accepted. A field in one of several shapes is needed where that shape is chosen. */
  readonly isNeeded: boolean;
  /** Of a choice, and of the tag that tells shapes apart. */
  readonly options: readonly { readonly value: string; readonly label: string }[];
}

/**
 * Label, options and need of a field, in a language that the intake speaks, so that a page that a server writes says what messages say.
 *
 * @param pointer of the field, such as `/crew/0/born`; of the tag of shapes, that of the shapes with the tag's name
 * @throws Fault for a pointer that leads to no field
 */
export function fieldText(intake: { readonly name: string }, pointer: string, locale: string): FieldText {
  const plan = planOf(intake);
  const segments = segmentsOf(pointer);
  const [found] = stepsAt(plan.fields, segments);
  const [holder] = stepsAt(plan.fields, segments.slice(0, -1));
  const step = found?.step ?? (holder?.step.tag !== undefined && holder.step.tag === segments.at(-1) ? holder.step : undefined);
  if (step) {
    const { place, needed, kind } = step;
    const { options = [] } = kind.facts ?? {};
    const words = kind.words?.options ?? [];
    return {
      label: textIn(place.label, locale),
      isNeeded: needed,
      options: options.map((option, at) => ({ value: String(option), label: textIn(words[at] ?? String(option), locale) })),
    };
  }
  const known: string[] = [];
  walkSteps(plan.fields, ({ place }) => known.push(`/${place.path.replaceAll('.', '/')}`));
  return fault(`Intake "${plan.name}" has no field at "${pointer}"; ${nearest(pointer, known)}`);
}
