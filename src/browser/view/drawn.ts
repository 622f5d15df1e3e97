import type { ShownFinding } from '../filling/finding.ts';

// What a framework draws.

/** A form that a framework draws: what stands in it, and what is found. It is a new one each time that something changes. */
export interface IntakeForm {
  /** What stands under a name; the last of several, empty where there is none. */
  value(name: string): string;
  /** All that stands under a name, such as several ticks. */
  values(name: string): readonly string[];
  /** One field, by the name of its control: `crew.0.name`. */
  field(name: string): IntakeField;
  /** Everything that is shown beside fields. */
  readonly findings: readonly ShownFinding[];
  /** What is to be listed above the form: all errors once it was sent, and what stands at no field. */
  readonly summary: readonly SummaryLine[];
  /** For the element that lists the summary, which should take the focus (`tabindex="-1"`). */
  readonly summaryId: string;
  /** What became of the whole form, where that is no list of findings: the server cannot be reached, or says something else. */
  readonly trouble: string | undefined;
  /** It is on its way. */
  readonly isPending: boolean;
  /** Sets what stands under a name that no control of the form has: of a component that sends nothing by itself. An empty list takes it back. */
  set(name: string, value: string | readonly string[]): void;
  /** Shows findings of the server. */
  show(findings: readonly ShownFinding[]): void;
}

/** One field of a form. */
export interface IntakeField {
  /** Of its control, for its label. */
  readonly id: string;
  readonly value: string;
  /** What is found at it, with an id for each. */
  readonly messages: readonly FieldMessage[];
  /** Attributes of its control. */
  readonly control: {
    readonly id: string;
    readonly name: string;
    /** Where a text box is not what its kind of value needs: `date`, `password`. */
    readonly type?: string;
    readonly 'aria-invalid': true | undefined;
    readonly 'aria-describedby': string | undefined;
  };
  /** As of the form, for a component that sends nothing by itself. */
  set(value: string | readonly string[]): void;
  /** Such a component was left. */
  leave(): void;
}

/** What is said of a field. */
export interface FieldMessage {
  readonly id: string;
  readonly text: string;
  readonly severity: 'error' | 'warning';
}

/** A line of the summary. */
export interface SummaryLine {
  /** Different from that of every other line. */
  readonly key: string;
  readonly text: string;
  /** Leads to the control, by its id; `undefined` where there is none. */
  readonly href: string | undefined;
  /** Moves to the control. */
  move(): void;
}
