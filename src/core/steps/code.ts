import type { FieldStep, FieldSteps } from '../plan/plan.ts';

// What the sorts of steps write of themselves into generated code: the same order and the same checks as `read` beside it.

/** Where a step's code stands. */
export interface Where {
  /** The way to the step from `plan`. */
  readonly way: string;
  /** The variables of the entries around it. */
  readonly entries: readonly string[];
  /** The variable of its frame; `LOOSE` where values stand in variables. */
  readonly frame: string;
}

/** The writer, as the templates of the steps use it. */
export interface CodeWriter {
  /** Lists whose entries are put together while they are read. */
  readonly direct: ReadonlySet<FieldStep>;
  /** A name for something of the plan, and the way there where it has none yet. */
  hold(value: unknown, way?: string): string;
  /** A name that nothing else has. */
  name(letter: string): string;
  /** Reads the fields of the object `source` into a frame. */
  fields(fields: FieldSteps, source: string, at: Where): string;
  /** A function that reads a field; gives its name. */
  field(step: FieldStep, at: Where, take: (raw: string) => string): string;
  /** What calls such a function with the object `source`. */
  call(name: string, source: string, at: Where): string;
  /** Judges `v` by the value rules of a step, and returns it. */
  checks(step: FieldStep, at: Where): string;
  /** The value of some fields, after `first`. */
  object(fields: FieldSteps, frame: string, to: string, first?: string): string;
}

export interface StepCode<S = FieldStep> {
  /** Its entries may be put together while they are read, where no rule looks into them. */
  isDirect?(step: S): boolean;
  /** It may stand in such an entry. */
  isLoose(step: S): boolean;
  /** Statements that read `r`, which is there, and return what is held. */
  read(writer: CodeWriter, step: S, at: Where): string;
  /** An expression for the value; what it needs first goes to `before`. */
  value(writer: CodeWriter, step: S, frame: string, before: string[]): string;
}

/** Where there is no frame: values stand in variables. */
export const LOOSE = 'g';
export const isLoose = (frame: string): boolean => frame === LOOSE;

export function slotIn(step: FieldStep, frame: string): string {
  return isLoose(frame) ? `${frame}_${step.slot}` : `${frame}[${step.slot}]`;
}

/** The loop marks what is inside a group that failed; where there is no frame, nobody asks. */
export function frameIn(frame: string): string {
  return isLoose(frame) ? 'undefined' : frame;
}

export function indexes(entries: readonly string[]): string {
  return entries.length === 0 ? 'NO_INDEXES' : `[${entries.join(', ')}]`;
}

/** All that the rules of a step look at is how many entries there are. */
export function countsOnly({ checks }: FieldStep): boolean {
  return checks.every(({ definition, isTrial }) => definition.countsOnly && !isTrial);
}

/** One of the functions that a sort gives its code. */
export function calls(writer: CodeWriter, { sort }: FieldStep, name: string, { way }: Where): string {
  return writer.hold(sort.calls?.[name], `${way}.sort.calls.${name}`);
}
