import type { Attributes } from '../controls/attributes.ts';
import { type Control, controlsOf } from '../controls/controls.ts';
import { isError, lineOf, nearest, type ShownFinding, UNTOLD } from '../filling/finding.ts';
import { type Filled, NOTHING, type Page } from '../filling/page.ts';
import { controlAt, Focus } from './focus.ts';
import { Live } from './live.ts';
import { Summary } from './summary.ts';

/** Forms bound on this page. */
let bound = 0;

/** Shows findings in a form: beside the controls, for screen readers, and in a summary that links to them. */
export class Showing implements Page {
  readonly #form: HTMLFormElement;
  readonly #locale: () => string;
  readonly #summary: Summary;
  readonly #focus: Focus;
  readonly #live: Live;
  readonly #prefix: string;
  /** What stands beside a field, and where. */
  #lines = new Map<string, Line>();
  #marked: ReadonlySet<Control> = new Set();
  #made = 0;

  constructor(
    form: HTMLFormElement,
    intake: { readonly name: string },
    summary: HTMLElement | undefined,
    attributes: Attributes,
    locale: () => string,
  ) {
    this.#form = form;
    this.#locale = locale;
    // Forms without an id, and two with the same, must not share those of their findings.
    this.#prefix = `${form.getAttribute('id') ?? form.getAttribute('name') ?? 'form'}-${++bound}-finding-`;
    this.#summary = new Summary(form, intake, summary, attributes, this.#prefix);
    this.#focus = new Focus(form);
    this.#live = new Live(form);
  }

  /** What a server has written into the page: from now on it is shown, and goes, as everything else. */
  adopt(): ShownFinding[] {
    this.#marked = new Set([...controlsOf(this.#form).values()].flat().filter((control) => control.hasAttribute('aria-invalid')));
    this.#summary.clear();
    return [...this.#form.querySelectorAll<HTMLElement>('[data-finding]')].map((line) => {
      const at = line.closest<HTMLElement>('[data-field]')?.dataset.field;
      line.remove();
      const isWarning = line.dataset.finding === 'warning';
      return { rule: UNTOLD, at: at === undefined ? [] : [at], message: line.textContent, ...(isWarning && { severity: 'warning' }) };
    });
  }

  /** Takes away what stands in the page because of it. */
  release(): void {
    this.show(NOTHING);
    this.#summary.release();
    this.#live.release();
  }

  tell(text: string): void {
    this.#live.tell(text, this.#locale());
  }

  /** Shows these findings and no others. */
  show({ findings, summary, trouble, isPending }: Filled): void {
    const controls = controlsOf(this.#form);
    const before = this.#lines;
    this.#lines = new Map();
    const described = new Map<string, string[]>();
    // What has no place beside a control is seen all the same.
    const homeless: ShownFinding[] = [];
    for (const finding of findings) {
      const line = this.#place(finding, before.get(lineOf(finding)), controls);
      if (!line) {
        homeless.push(finding);
        continue;
      }
      this.#lines.set(lineOf(finding), line);
      for (const pointer of finding.at) {
        const near = nearest(pointer, (each) => controls.has(each));
        described.set(near, [...(described.get(near) ?? []), line.element.id]);
      }
    }
    for (const [key, { element }] of before) if (this.#lines.get(key)?.element !== element) element.remove();
    this.#mark(findings, described, controls);
    const listed = [...summary, ...homeless.filter((finding) => !summary.includes(finding))];
    this.#summary.show(listed, trouble, this.#locale(), (pointer) => controlAt(this.#form, pointer));
    if (isPending) this.#form.setAttribute('aria-busy', 'true');
    else this.#form.removeAttribute('aria-busy');
  }

  move(filled: Filled, isAgain = false): void {
    this.#focus.move(filled, isAgain, this.#summary.shown);
  }

  locale(): string {
    return this.#locale();
  }

  /** The line of a finding, in its place: in the element for its field, or behind its control. What stands there already stays. */
  #place({ at: [pointer = ''], message, severity }: ShownFinding, known: Line | undefined, controls: Controls): Line | undefined {
    const near = nearest(pointer, (each) => controls.has(each) || this.#homeOf(each) !== null);
    const home = near === '' ? null : this.#homeOf(near);
    const control = controls.get(near)?.at(-1);
    const anchor = home ?? control?.closest('label') ?? control;
    if (!anchor || (known?.anchor === anchor && known.element.isConnected)) return anchor && known;
    const element = known?.element ?? document.createElement('p');
    element.id ||= `${this.#prefix}${++this.#made}`;
    element.dataset.finding = severity ?? 'error';
    element.lang = this.#locale();
    element.textContent = message;
    if (home) home.append(element);
    else lastBehind(anchor).after(element);
    return { element, anchor };
  }

  /** The element for the findings of a field: in the form, or beside it where no form is. */
  #homeOf(pointer: string): Element | null {
    const selector = `[data-field="${CSS.escape(pointer)}"]`;
    const inside = this.#form.querySelector(selector);
    if (inside) return inside;
    const beside = (this.#form.getRootNode() as Document | ShadowRoot).querySelector(selector);
    return beside?.closest('form') ? null : beside;
  }

  #mark(findings: readonly ShownFinding[], described: ReadonlyMap<string, readonly string[]>, controls: Controls): void {
    const errors = findings.filter(isError).flatMap(({ at }) => at);
    const invalid = new Set(errors.map((pointer) => nearest(pointer, (each) => controls.has(each))));
    const marked = new Set<Control>();
    for (const [pointer, own] of controls) {
      for (const control of own) {
        this.#describe(control, described.get(pointer) ?? []);
        if (!invalid.has(pointer)) continue;
        control.setAttribute('aria-invalid', 'true');
        marked.add(control);
      }
    }
    for (const control of this.#marked) if (!marked.has(control)) control.removeAttribute('aria-invalid');
    this.#marked = marked;
  }

  #describe(control: Control, findings: readonly string[]): void {
    const before = control.getAttribute('aria-describedby') ?? '';
    // What was described elsewhere, and is gone since, describes nothing.
    const isThere = (id: string) => id !== '' && (this.#form.getRootNode() as Document | ShadowRoot).getElementById(id) !== null;
    const others = before.split(' ').filter((id) => !id.startsWith(this.#prefix) && isThere(id));
    const now = [...others, ...findings].join(' ');
    if (now === before) return;
    if (now) control.setAttribute('aria-describedby', now);
    else control.removeAttribute('aria-describedby');
  }
}

interface Line {
  readonly element: HTMLElement;
  /** What it stands in, or behind. */
  readonly anchor: Element;
}
type Controls = ReadonlyMap<string, readonly Control[]>;

/** The last of the lines behind a control, or the control. */
function lastBehind(anchor: Element): Element {
  let last = anchor;
  while (last.nextElementSibling instanceof HTMLElement && last.nextElementSibling.dataset.finding !== undefined)
    last = last.nextElementSibling;
  return last;
}
