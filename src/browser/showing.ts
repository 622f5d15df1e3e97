import { textIn } from '../core/messages/render.ts';
import { rowsAt } from '../forms/steps-at.ts';
import { type Control, controlsOf } from './controls.ts';
import type { Renaming } from './renamed.ts';

/** Forms bound on this page. */
let bound = 0;

/** What is shown of a finding, whether the page or the server has found it. */
export interface ShownFinding {
  readonly rule: string;
  /** JSON Pointers; the finding stands at the first. */
  readonly at: readonly string[];
  readonly message: string;
  readonly severity?: 'warning';
}

/** The same for what is the same finding, whoever has found it. */
export function keyOf({ rule, at }: ShownFinding): string {
  return JSON.stringify([rule, at]);
}

/** The same for what is said alike: two uses of one rule may stand at one place, and a message may come to tell other numbers. */
function lineOf({ rule, at, message }: ShownFinding): string {
  return JSON.stringify([rule, at, message]);
}

/** A finding where its fields stand now; none when one of them is gone. */
export function renamed(finding: ShownFinding, renaming: Renaming): ShownFinding | undefined {
  const at = finding.at.flatMap((pointer) => renaming(pointer) ?? []);
  return at.length === finding.at.length ? { ...finding, at } : undefined;
}

/** Shows findings in a form: beside the controls, for screen readers, and in a summary that links to them. */
export class Showing {
  readonly #form: HTMLFormElement;
  readonly #intake: { readonly name: string };
  #summary: HTMLElement | undefined;
  /** Made here, and gone with the binding. */
  #own: HTMLElement | undefined;
  /** What the summary lists: of that, what no longer holds goes away. */
  readonly #listed = new Map<string, { readonly finding: ShownFinding; readonly item: HTMLElement }>();
  readonly #prefix: string;

  constructor(form: HTMLFormElement, intake: { readonly name: string }, summary: HTMLElement | undefined) {
    this.#form = form;
    this.#intake = intake;
    this.#summary = summary;
    // Forms without an id, and two with the same, must not share those of their findings.
    this.#prefix = `${form.getAttribute('id') ?? form.getAttribute('name') ?? 'form'}-${++bound}-finding-`;
  }

  /** Takes away what stands in the page because of it. */
  release(): void {
    this.#own?.remove();
  }

  /** Shows these findings and no others. */
  show(findings: readonly ShownFinding[], locale: string): void {
    for (const old of this.#form.querySelectorAll('[data-finding]')) old.remove();
    const controls = controlsOf(this.#form);
    const described = new Map<string, string[]>();
    // What has no place beside a control is seen all the same.
    const homeless: ShownFinding[] = [];
    for (const [index, finding] of findings.entries()) {
      const id = `${this.#prefix}${index}`;
      for (const pointer of finding.at) described.set(pointer, [...(described.get(pointer) ?? []), id]);
      if (!this.#place(finding, id, controls, locale)) homeless.push(finding);
    }
    const listed = new Set([...this.#listed.values()].map(({ finding }) => keyOf(finding)));
    const stay = findings.filter((finding) => homeless.includes(finding) || listed.has(keyOf(finding)));
    if (stay.length + this.#listed.size > 0) this.#list(stay, locale);
    const errors = new Set(findings.filter(({ severity }) => severity !== 'warning').flatMap(({ at }) => at));
    for (const [pointer, own] of controls)
      for (const control of own) this.#mark(control, described.get(pointer) ?? [], errors.has(pointer));
  }

  /** Lists findings, each linked to its control; an empty list takes the summary away. */
  summarise(findings: readonly ShownFinding[], locale: string): void {
    this.#empty();
    if (this.#summary || findings.length > 0) this.#list(findings, locale);
  }

  /** Lists what was listed under the numbers that its rows have now. */
  rename(renaming: Renaming, locale: string): void {
    const kept = [...this.#listed.values()].flatMap(({ finding }) => renamed(finding, renaming) ?? []);
    if (this.#listed.size > 0) this.summarise(kept, locale);
  }

  /** Says what became of the whole form. */
  say(text: string, locale: string): void {
    this.#empty();
    const line = document.createElement('p');
    line.dataset.findings = '';
    line.setAttribute('role', 'alert');
    line.lang = locale;
    line.textContent = text;
    const summary = this.#summaryOf();
    summary.hidden = false;
    summary.append(line);
    summary.focus();
  }

  #empty(): void {
    this.#listed.clear();
    for (const old of this.#summary?.querySelectorAll('[data-findings]') ?? []) old.remove();
  }

  /** What goes on holding keeps its place, so that a link that has the focus is not taken away. */
  #list(findings: readonly ShownFinding[], locale: string): void {
    const summary = this.#summaryOf();
    const keys = new Set(findings.map(lineOf));
    for (const [key, { item }] of this.#listed) {
      if (keys.has(key)) continue;
      item.remove();
      this.#listed.delete(key);
    }
    let list = summary.querySelector('ul[data-findings]');
    if (!list) {
      list = document.createElement('ul');
      list.setAttribute('data-findings', '');
      summary.append(list);
    }
    for (const finding of findings) {
      if (this.#listed.has(lineOf(finding))) continue;
      const item = this.#item(finding, locale);
      this.#listed.set(lineOf(finding), { finding, item });
      list.append(item);
    }
    summary.hidden = findings.length === 0;
  }

  #summaryOf(): HTMLElement {
    if (this.#summary) return this.#summary;
    const made = document.createElement('div');
    made.tabIndex = -1;
    made.setAttribute('role', 'group');
    this.#form.prepend(made);
    this.#own = made;
    this.#summary = made;
    return made;
  }

  /** Moves to the first control that has a finding with the summary in sight; to the summary where both cannot be seen. */
  focusFirst(findings: readonly ShownFinding[]): void {
    const controls = controlsOf(this.#form);
    const blamed = new Set(findings.flatMap(({ at }) => at));
    const [first] = [...controls].filter(([pointer]) => blamed.has(pointer)).map(([, [control]]) => control);
    const summary = this.#summary;
    if (!first || !summary || summary.hidden) return (first ?? summary)?.focus();
    summary.scrollIntoView({ block: 'start' });
    const { top, bottom } = first.getBoundingClientRect();
    const isInSight = top >= 0 && bottom <= innerHeight;
    (isInSight ? first : summary).focus({ preventScroll: true });
  }

  #place({ at, message, severity }: ShownFinding, id: string, controls: Map<string, Control[]>, locale: string): boolean {
    const [pointer = ''] = at;
    const home = this.#form.querySelector(`[data-field="${CSS.escape(pointer)}"]`);
    const control = controls.get(pointer)?.at(-1);
    if (!home && !control) return false;
    const line = document.createElement('p');
    line.id = id;
    line.dataset.finding = severity ?? 'error';
    line.lang = locale;
    line.textContent = message;
    if (home) home.append(line);
    else (control?.closest('label') ?? control)?.after(line);
    return true;
  }

  #mark(control: Control, findings: readonly string[], isInvalid: boolean): void {
    const others = (control.getAttribute('aria-describedby') ?? '').split(' ').filter((id) => id !== '' && !id.startsWith(this.#prefix));
    // What was described elsewhere, and is gone since, describes nothing.
    const describedBy = [...others, ...findings].filter((id) => document.getElementById(id)).join(' ');
    if (describedBy) control.setAttribute('aria-describedby', describedBy);
    else control.removeAttribute('aria-describedby');
    if (isInvalid) control.setAttribute('aria-invalid', 'true');
    else control.removeAttribute('aria-invalid');
  }

  #item({ at, message }: ShownFinding, locale: string): HTMLElement {
    const item = document.createElement('li');
    item.lang = locale;
    const [pointer = ''] = at;
    const control = controlsOf(this.#form).get(pointer)?.[0];
    // Away from its row a finding says which row it is, where its sentence does not.
    const rows = rowsAt(this.#intake, pointer)
      .filter(({ step }) => step.place.entryLabels?.at(-1) === undefined)
      .map(({ step, number }) => `${textIn(step.place.label, locale)} ${number}`);
    const text = [...rows, message].join(': ');
    if (!control) {
      item.textContent = text;
      return item;
    }
    if (control.id === '') control.id = `${this.#prefix}control-${control.name}`;
    const link = document.createElement('a');
    link.href = `#${control.id}`;
    link.textContent = text;
    link.addEventListener('click', (event) => {
      event.preventDefault();
      control.focus();
    });
    item.append(link);
    return item;
  }
}
