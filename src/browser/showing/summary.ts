import { textIn } from '../../core/messages/render.ts';
import { rowsAt } from '../../forms/steps-at.ts';
import type { Attributes } from '../controls/attributes.ts';
import { type Control, nameOf } from '../controls/controls.ts';
import { lineOf, type ShownFinding } from '../filling/finding.ts';

/** Lists what is wrong with a form, each linked to its control, and says what became of the whole. */
export class Summary {
  readonly #form: HTMLFormElement;
  readonly #intake: { readonly name: string };
  readonly #attributes: Attributes;
  readonly #prefix: string;
  #element: HTMLElement | undefined;
  /** Made here, and gone with the binding. */
  #own: HTMLElement | undefined;
  #wasHidden: HTMLElement['hidden'] | undefined;
  #trouble: HTMLElement | undefined;
  #list: HTMLElement | undefined;
  readonly #items = new Map<string, HTMLElement>();

  constructor(
    form: HTMLFormElement,
    intake: { readonly name: string },
    element: HTMLElement | undefined,
    attributes: Attributes,
    prefix: string,
  ) {
    this.#form = form;
    this.#intake = intake;
    this.#element = element;
    this.#attributes = attributes;
    this.#prefix = prefix;
  }

  /** Where it can be seen. */
  get shown(): HTMLElement | undefined {
    return this.#element?.hidden === false ? this.#element : undefined;
  }

  /** What goes on holding keeps its place, so that a link that has the focus is not taken away. */
  show(findings: readonly ShownFinding[], trouble: string | undefined, locale: string, controlAt: ControlAt): void {
    const isEmpty = findings.length === 0 && trouble === undefined;
    if (isEmpty && !this.#list && !this.#trouble) return;
    const element = this.#made();
    this.#say(trouble, locale, element);
    this.#enlist(findings, locale, element, controlAt);
    element.hidden = isEmpty;
  }

  /** Takes away what a server has listed. */
  clear(): void {
    for (const list of this.#element?.querySelectorAll('[data-findings]') ?? []) list.remove();
  }

  release(): void {
    this.#trouble?.remove();
    this.#list?.remove();
    this.#own?.remove();
    if (this.#element && this.#wasHidden !== undefined) this.#element.hidden = this.#wasHidden;
  }

  #made(): HTMLElement {
    if (this.#element) {
      this.#wasHidden ??= this.#element.hidden;
      return this.#element;
    }
    const made = document.createElement('div');
    made.tabIndex = -1;
    made.setAttribute('role', 'group');
    this.#form.prepend(made);
    this.#own = made;
    this.#element = made;
    return made;
  }

  #say(text: string | undefined, locale: string, element: HTMLElement): void {
    if (text === this.#trouble?.textContent) return;
    this.#trouble?.remove();
    this.#trouble = undefined;
    if (text === undefined) return;
    const line = document.createElement('p');
    line.dataset.findings = '';
    line.setAttribute('role', 'alert');
    line.lang = locale;
    line.textContent = text;
    element.append(line);
    this.#trouble = line;
  }

  #enlist(findings: readonly ShownFinding[], locale: string, element: HTMLElement, controlAt: ControlAt): void {
    const lines = new Map(findings.map((finding) => [lineOf(finding), finding]));
    for (const [line, item] of this.#items) {
      if (lines.has(line)) continue;
      item.remove();
      this.#items.delete(line);
    }
    if (!this.#list) {
      this.#list = document.createElement('ul');
      this.#list.setAttribute('data-findings', '');
      element.append(this.#list);
    }
    let next: HTMLElement | null = null;
    for (const [line, finding] of [...lines].reverse()) {
      let item = this.#items.get(line);
      if (!item) {
        item = this.#item(finding, locale, controlAt);
        this.#items.set(line, item);
        this.#list.insertBefore(item, next);
      }
      next = item;
    }
  }

  #item({ at: [pointer = ''], message }: ShownFinding, locale: string, controlAt: ControlAt): HTMLElement {
    const item = document.createElement('li');
    item.lang = locale;
    const text = textAway(this.#intake, pointer, message, locale);
    const control = controlAt(pointer);
    if (!control) {
      item.textContent = text;
      return item;
    }
    this.#attributes.set(control, 'id', `${this.#prefix}control-${nameOf(control)}`);
    const link = document.createElement('a');
    link.href = `#${control.id}`;
    link.textContent = text;
    link.addEventListener('click', (event) => {
      event.preventDefault();
      controlAt(pointer)?.focus();
    });
    item.append(link);
    return item;
  }
}

type ControlAt = (pointer: string) => Control | undefined;

/** Away from its row a finding says which row it is, where its sentence does not. */
export function textAway(intake: { readonly name: string }, pointer: string, message: string, locale: string): string {
  const rows = rowsAt(intake, pointer)
    .filter(({ step }) => step.place.entryLabels?.at(-1) === undefined)
    .map(({ step, number }) => `${textIn(step.place.label, locale)} ${number}`);
  return [...rows, message].join(': ');
}
