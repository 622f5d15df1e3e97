import { controlAttributes } from '../../forms/control-attributes.ts';
import { pointerOfName } from '../../forms/names.ts';
import type { AnyIntake } from '../../http/receive/options.ts';
import { listen } from '../controls/listening.ts';
import { Filling } from '../filling/filling.ts';
import { isError, lineOf, nearest, type ShownFinding } from '../filling/finding.ts';
import { type FillingOptions, localeOf } from '../filling/options.ts';
import { type Filled, NOTHING, type Page } from '../filling/page.ts';
import { contentOf } from '../filling/values.ts';
import { controlAt, Focus } from '../showing/focus.ts';
import { Live } from '../showing/live.ts';
import { textAway } from '../showing/summary.ts';
import type { IntakeField, IntakeForm, SummaryLine } from './drawn.ts';
import { ViewControls } from './view-controls.ts';

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
    if (this.#bound) this.#show({ ...NOTHING, entries: this.#bound.controls.entries() });
  };

  /** After each rendering: what was changed by it is looked at. */
  readonly rendered = (): void => {
    if (this.#bound && contentOf(this.#bound.controls.entries()) !== contentOf(this.#filled.entries)) this.#bound.filling.look();
  };

  #bind(form: HTMLFormElement): Bound {
    const end = new AbortController();
    const controls = new ViewControls(form, this.#intake, this.#options().stored !== undefined, this.#set);
    const live = new Live(form);
    const focus = new Focus(form, (pointer) => document.getElementById(this.#idOf(pointer)) ?? undefined);
    const page: Page = {
      locale: () => localeOf(this.#options()),
      show: (filled) => this.#show(filled),
      // Once it is drawn.
      move: (filled, isAgain = false) => {
        setTimeout(() => end.signal.aborted || focus.move(filled, isAgain, this.#summary()));
      },
      tell: (text) => live.tell(text, page.locale()),
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

  #show(filled: Filled): void {
    this.#filled = filled;
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
    const { entries, findings, trouble, isPending } = this.#filled;
    const values = new Map<string, string[]>();
    for (const [name, value] of entries) {
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
    if (value.length === 0 && typeof value !== 'string') this.#set.delete(name);
    else this.#set.set(name, typeof value === 'string' ? [value] : value);
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
    const homeless = findings.filter(({ at: [first = ''] }) => this.#homeOf(first) === '');
    return [...new Set([...summary, ...homeless])].map((finding) => {
      const [pointer = ''] = finding.at;
      const target = () => (this.#bound && controlAt(this.#bound.form, pointer)) ?? document.getElementById(this.#idOf(pointer));
      return {
        key: lineOf(finding),
        text: textAway(this.#intake, pointer, finding.message, localeOf(this.#options())),
        href: target()?.id ? `#${target()?.id}` : undefined,
        move: () => target()?.focus(),
      };
    });
  }
}
