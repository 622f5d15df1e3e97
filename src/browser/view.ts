import { controlAttributes } from '../forms/control-attributes.ts';
import { pointerOfName } from '../forms/names.ts';
import type { AnyIntake } from '../http/receive/options.ts';
import { FormControls } from './controls/form-controls.ts';
import { listen } from './controls/listening.ts';
import { Filling } from './filling/filling.ts';
import { isError, nearest, type ShownFinding } from './filling/finding.ts';
import type { FillingOptions } from './filling/options.ts';
import { type Filled, NOTHING, type Page } from './filling/page.ts';
import { contentOf, type Entry } from './filling/values.ts';
import { controlAt, Focus } from './showing/focus.ts';
import { Live } from './showing/live.ts';
import { textAway } from './showing/summary.ts';

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
  /** Sets what stands under a name that no control of the form has: of a component that sends nothing by itself. */
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

/** The controls of a form, and what is set where there is none. */
class ViewControls extends FormControls {
  readonly #set: ReadonlyMap<string, readonly string[]>;

  constructor(form: HTMLFormElement, intake: AnyIntake, amends: boolean, set: ReadonlyMap<string, readonly string[]>) {
    super(form, intake, amends);
    this.#set = set;
  }

  override sent(submitter: HTMLElement | null): FormData {
    const form = super.sent(submitter);
    for (const [name, value] of this.#others()) form.append(name, value);
    return form;
  }

  override entries(): Entry[] {
    return [...super.entries(), ...this.#others()];
  }

  override pointers(): ReadonlySet<string> {
    return new Set([...super.pointers(), ...[...this.#set.keys()].map(pointerOfName)]);
  }

  #others(): [string, string][] {
    const known = super.pointers();
    return [...this.#set].flatMap(([name, values]) =>
      known.has(pointerOfName(name)) ? [] : values.map((value) => [name, value] as [string, string]),
    );
  }
}

/** What is there while a form is bound. */
interface Bound {
  readonly form: HTMLFormElement;
  readonly controls: ViewControls;
  readonly filling: Filling;
  release(): void;
}

/** A form for frameworks: they draw what `current` gives, and subscribe to its changes. */
export class FormView {
  readonly #intake: AnyIntake;
  readonly #id: string;
  readonly #options: () => FillingOptions;
  readonly #listeners = new Set<() => void>();
  readonly #set = new Map<string, readonly string[]>();
  #bound: Bound | undefined;
  #filled = NOTHING;
  #entries: readonly Entry[] = [];
  #current: IntakeForm | undefined;
  #telling: ReturnType<typeof setTimeout> | undefined;

  constructor(intake: AnyIntake, id: string, options: () => FillingOptions) {
    this.#intake = intake;
    this.#id = id;
    this.#options = options;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  readonly current = (): IntakeForm => {
    this.#current ??= this.#form();
    return this.#current;
  };

  /** Binds the form, or lets go of it. */
  readonly bind = (form: unknown): void => {
    if (form === this.#bound?.form) return;
    this.#bound?.release();
    this.#bound = form instanceof HTMLFormElement ? this.#bind(form) : undefined;
    if (this.#bound) this.#show(NOTHING, this.#bound.controls.entries());
  };

  /** After each rendering: what was changed by it is looked at. */
  readonly rendered = (): void => {
    if (this.#bound && contentOf(this.#bound.controls.entries()) !== contentOf(this.#entries)) this.#bound.filling.look();
  };

  #bind(form: HTMLFormElement): Bound {
    const end = new AbortController();
    const controls = new ViewControls(form, this.#intake, this.#options().stored !== undefined, this.#set);
    const live = new Live(form);
    const focus = new Focus(form, (pointer) => document.getElementById(this.#idOf(pointer)) ?? undefined);
    const page: Page = {
      get language() {
        return document.documentElement.lang || 'en';
      },
      show: (filled) => this.#show(filled, controls.entries()),
      // Once it is drawn.
      move: (filled, isAgain = false) => {
        setTimeout(() => end.signal.aborted || focus.move(filled, isAgain, this.#summary()));
      },
      tell: (text) => live.tell(text, this.#options().locale?.() ?? page.language),
    };
    const filling = new Filling(this.#intake, controls, page, this.#options);
    listen(form, controls, filling, end.signal);
    return {
      form,
      controls,
      filling,
      release() {
        end.abort();
        filling.stop();
        live.release();
        controls.release();
      },
    };
  }

  #summary(): HTMLElement | undefined {
    const summary = document.getElementById(this.#summaryId);
    return summary && !summary.hidden ? summary : undefined;
  }

  #show(filled: Filled, entries: readonly Entry[]): void {
    this.#filled = filled;
    this.#entries = entries;
    this.#current = undefined;
    // Not before the framework has heard of the same event: it would draw a controlled value as it was.
    this.#telling ??= setTimeout(() => {
      this.#telling = undefined;
      for (const listener of this.#listeners) listener();
    });
  }

  get #summaryId(): string {
    return `${this.#id}-summary`;
  }

  #idOf(pointer: string): string {
    return `${this.#id}${pointer}`;
  }

  #form(): IntakeForm {
    const { findings, trouble, isPending } = this.#filled;
    const values = new Map<string, string[]>();
    for (const [name, value] of this.#entries) {
      const pointer = pointerOfName(name);
      if (typeof value === 'string') values.set(pointer, [...(values.get(pointer) ?? []), value]);
    }
    const of = (name: string) => values.get(pointerOfName(name)) ?? [];
    return {
      value: (name) => of(name).at(-1) ?? '',
      values: of,
      field: (name) => this.#field(name, of(name).at(-1) ?? ''),
      findings,
      summary: this.#lines(),
      summaryId: this.#summaryId,
      trouble,
      isPending,
      set: (name, value) => this.#put(name, value),
      show: (found) => this.#bound?.filling.show(found),
    };
  }

  #put(name: string, value: string | readonly string[]): void {
    this.#set.set(name, typeof value === 'string' ? [value] : value);
    this.#bound?.filling.typed();
  }

  #field(name: string, value: string): IntakeField {
    const pointer = pointerOfName(name);
    const isHere = (each: string) => each === pointer || this.#homeOf(each) === pointer;
    const here = this.#filled.findings.filter(({ at }) => at.some(isHere));
    const id = this.#idOf(pointer);
    const { type } = controlAttributes(this.#intake, pointer);
    const idOf = (finding: ShownFinding) => `${this.#id}-finding-${this.#filled.findings.indexOf(finding)}`;
    return {
      id,
      value,
      // A finding stands at its first place, and describes the controls at all of them.
      messages: here
        .filter(({ at: [first] }) => first !== undefined && isHere(first))
        .map((finding) => ({ id: idOf(finding), text: finding.message, severity: finding.severity ?? 'error' })),
      control: {
        id,
        name,
        ...(type !== undefined && { type }),
        'aria-invalid': here.some(isError) ? true : undefined,
        'aria-describedby': here.map(idOf).join(' ') || undefined,
      },
      set: (fresh) => this.#put(name, fresh),
      leave: () => this.#bound?.filling.left(pointer),
    };
  }

  /** The field at which a finding is shown. */
  #homeOf(pointer: string): string {
    const pointers = this.#bound?.controls.pointers();
    return nearest(pointer, (each) => pointers?.has(each) === true);
  }

  #lines(): SummaryLine[] {
    const { findings, summary } = this.#filled;
    const locale = () => this.#options().locale?.() ?? document.documentElement.lang;
    const homeless = findings.filter(({ at: [first = ''] }) => this.#homeOf(first) === '');
    return [...new Set([...summary, ...homeless])].map((finding) => {
      const [pointer = ''] = finding.at;
      const target = () => (this.#bound && controlAt(this.#bound.form, pointer)) ?? document.getElementById(this.#idOf(pointer));
      return {
        key: JSON.stringify([finding.rule, finding.at, finding.message]),
        text: textAway(this.#intake, pointer, finding.message, locale() || 'en'),
        href: target()?.id ? `#${target()?.id}` : undefined,
        move: () => target()?.focus(),
      };
    });
  }
}
