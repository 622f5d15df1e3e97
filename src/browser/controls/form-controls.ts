import { planOf } from '../../core/intake.ts';
import { pointerOfName, segmentsOf } from '../../forms/names.ts';
import { stepsAt } from '../../forms/steps-at.ts';
import { type Controls, UNREADABLE_TEXT } from '../filling/page.ts';
import { type Renaming, renamingOf } from '../filling/renaming.ts';
import type { Entry } from '../filling/values.ts';
import { Attributes } from './attributes.ts';
import { type Control, controlsOf, nameOf, typeOf } from './controls.ts';

/** The controls of an HTML form: inside it, or anywhere else by their attribute `form`. */
export class FormControls implements Controls {
  readonly #form: HTMLFormElement;
  readonly #intake: { readonly name: string };
  readonly #amends: boolean;
  readonly attributes = new Attributes();
  /** As they were called when they were last looked at. */
  #names = new Map<Control, string>();
  #held: readonly Entry[] = [];

  constructor(form: HTMLFormElement, intake: { readonly name: string }, amends: boolean) {
    this.#form = form;
    this.#intake = intake;
    this.#amends = amends;
    // The page shows findings itself, so the browser's own bubbles stay away; its attributes still tell what is wanted.
    this.attributes.set(form, 'novalidate', '');
    this.renamed();
  }

  /** What is sent with a button. */
  sent(submitter: HTMLElement | null): FormData {
    return new FormData(this.#form, submitter);
  }

  entries(): Entry[] {
    const unreadable = new Set<string>();
    const disabled = new Set<string>();
    for (const control of this.#all()) {
      if ((control as HTMLInputElement).validity?.badInput) unreadable.add(nameOf(control));
      if (control.matches(':disabled')) disabled.add(nameOf(control));
    }
    const entries = Array.from(new FormData(this.#form) as Iterable<Entry>);
    const sent = new Set(entries.map(([name]) => name));
    const held = this.#held.filter(([name]) => disabled.has(name) && !sent.has(name));
    return [...entries, ...held].map(([name, value]) => [name, unreadable.has(name) ? UNREADABLE_TEXT : value]);
  }

  pointers(): ReadonlySet<string> {
    return new Set(controlsOf(this.#form).keys());
  }

  boxes(): string[] {
    const { fields } = planOf(this.#intake);
    const isShown = (control: Control) => typeOf(control) === 'checkbox' && (this.#held.length > 0 || !control.matches(':disabled'));
    const pointers = [...controlsOf(this.#form)].filter(([, controls]) => controls.some(isShown)).map(([pointer]) => pointer);
    const steps = pointers.flatMap((pointer) => stepsAt(fields, segmentsOf(pointer)));
    return [...new Set(steps.flatMap(({ step: { kind, place } }) => (kind.unsent === undefined ? [] : [place.path])))];
  }

  hold(sent: FormData | undefined): void {
    this.#held = sent ? Array.from(sent as Iterable<Entry>) : [];
  }

  /** What became of the pointers since this was last asked; nothing, where the controls are the same. */
  renamed(): Renaming | undefined {
    const now = new Map(this.#all().map((control) => [control, pointerOfName(nameOf(control))]));
    const isSame = now.size === this.#names.size && [...now].every(([control, pointer]) => this.#names.get(control) === pointer);
    if (isSame) return undefined;
    const renaming = renamingOf(this.#names, now);
    this.#names = now;
    for (const control of now.keys()) this.attributes.tell(this.#intake, this.#form, control, this.#amends);
    return renaming;
  }

  release(): void {
    this.attributes.release();
  }

  #all(): Control[] {
    return [...controlsOf(this.#form).values()].flat();
  }
}
