import { type Control, controlsOf } from './controls.ts';

/** What is shown of a finding, whether the page or the server has found it. */
export interface ShownFinding {
  readonly rule: string;
  /** JSON Pointers; the finding stands at the first. */
  readonly at: readonly string[];
  readonly message: string;
  readonly severity?: 'warning';
}

/** Shows findings in a form: beside the controls, for screen readers, and in a summary that links to them. */
export class Showing {
  readonly #form: HTMLFormElement;
  readonly #summary: HTMLElement | undefined;
  readonly #prefix: string;

  constructor(form: HTMLFormElement, summary: HTMLElement | undefined) {
    this.#form = form;
    this.#summary = summary;
    this.#prefix = `${form.id || form.name || 'form'}-finding-`;
  }

  /** Shows these findings and no others. */
  show(findings: readonly ShownFinding[], locale: string): void {
    for (const old of this.#form.querySelectorAll('[data-finding]')) old.remove();
    const controls = controlsOf(this.#form);
    const described = new Map<string, string[]>();
    for (const [index, finding] of findings.entries()) {
      const id = `${this.#prefix}${index}`;
      for (const pointer of finding.at) described.set(pointer, [...(described.get(pointer) ?? []), id]);
      this.#place(finding, id, controls, locale);
    }
    const errors = new Set(findings.filter(({ severity }) => severity !== 'warning').flatMap(({ at }) => at));
    for (const [pointer, own] of controls)
      for (const control of own) this.#mark(control, described.get(pointer) ?? [], errors.has(pointer));
  }

  /** Lists findings, each linked to its control; an empty list takes the summary away. */
  summarise(findings: readonly ShownFinding[], locale: string): void {
    if (!this.#summary) return;
    const list = document.createElement('ul');
    for (const finding of findings) list.append(this.#item(finding, locale));
    this.#summary.querySelector('ul[data-findings]')?.remove();
    list.dataset.findings = '';
    this.#summary.hidden = findings.length === 0;
    if (findings.length > 0) this.#summary.append(list);
  }

  /** Moves to the first control that has a finding, else to the summary. */
  focusFirst(findings: readonly ShownFinding[]): void {
    const controls = controlsOf(this.#form);
    const blamed = new Set(findings.flatMap(({ at }) => at));
    const [first] = [...controls].filter(([pointer]) => blamed.has(pointer)).map(([, [control]]) => control);
    if (first) first.focus();
    else this.#summary?.focus();
  }

  #place({ at, message, severity }: ShownFinding, id: string, controls: Map<string, Control[]>, locale: string): void {
    const [pointer = ''] = at;
    const home = this.#form.querySelector(`[data-field="${CSS.escape(pointer)}"]`);
    const control = controls.get(pointer)?.at(-1);
    if (!home && !control) return;
    const line = document.createElement('p');
    line.id = id;
    line.dataset.finding = severity ?? 'error';
    line.lang = locale;
    line.textContent = message;
    if (home) home.append(line);
    else (control?.closest('label') ?? control)?.after(line);
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
    const control = controlsOf(this.#form).get(at[0] ?? '')?.[0];
    if (!control) {
      item.textContent = message;
      return item;
    }
    if (control.id === '') control.id = `${this.#prefix}control-${control.name}`;
    const link = document.createElement('a');
    link.href = `#${control.id}`;
    link.textContent = message;
    link.addEventListener('click', (event) => {
      event.preventDefault();
      control.focus();
    });
    item.append(link);
    return item;
  }
}
