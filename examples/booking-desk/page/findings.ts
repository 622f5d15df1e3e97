/** What the page shows of a finding, whether it comes from the desk or from the page's own judgement. */
export interface ShownFinding {
  readonly pointers: readonly string[];
  readonly message: string;
}

/** Shows findings beside their fields; takes away what was shown before. */
export function showBeside(form: HTMLFormElement, findings: readonly ShownFinding[]): void {
  for (const home of form.querySelectorAll<HTMLElement>('[data-field]')) {
    const own = findings.filter(({ pointers }) => pointers[0] === home.dataset.field);
    const isBlamed = findings.some(({ pointers }) => pointers.includes(home.dataset.field as string));
    for (const old of home.querySelectorAll('.finding')) old.remove();
    const control = controlIn(home);
    if (control) mark(control, isBlamed);
    for (const [index, finding] of own.entries()) {
      const line = document.createElement('p');
      line.className = 'finding';
      line.id = `finding${(home.dataset.field as string).replaceAll('/', '-')}-${index}`;
      line.textContent = finding.message;
      home.append(line);
      control?.setAttribute('aria-describedby', `${control.getAttribute('aria-describedby') ?? ''} ${line.id}`.trim());
    }
  }
}

function mark(control: Element, isBlamed: boolean): void {
  if (isBlamed) control.setAttribute('aria-invalid', 'true');
  else control.removeAttribute('aria-invalid');
  const hints = (control.getAttribute('aria-describedby') ?? '').split(' ').filter((id) => id !== '' && !id.startsWith('finding'));
  if (hints.length > 0) control.setAttribute('aria-describedby', hints.join(' '));
  else control.removeAttribute('aria-describedby');
}

function controlIn(home: Element): HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement | null {
  return home.querySelector('input, select, textarea');
}

/** Lists findings at the top, each linked to its field, and moves there. */
export function showSummary(notice: HTMLElement, form: HTMLFormElement, findings: readonly ShownFinding[]): void {
  const count = findings.length === 1 ? 'one thing' : `${findings.length} things`;
  const links = findings.map(({ pointers, message }) => {
    const item = document.createElement('li');
    const target = targetOf(form, pointers[0] ?? '');
    const link = document.createElement(target ? 'a' : 'span');
    link.textContent = message;
    if (target) link.setAttribute('href', `#${target.id}`);
    item.append(link);
    return item;
  });
  const list = document.createElement('ul');
  list.append(...links);
  showNotice(notice, `Not booked yet: please look at ${count}.`, 'mend', list);
}

/** The control of a field, or the part of the page that stands for it. */
function targetOf(form: HTMLFormElement, pointer: string): Element | null {
  const home = form.querySelector(`[data-field="${CSS.escape(pointer)}"]`);
  return home && (controlIn(home) ?? home.closest('fieldset'));
}

/** Puts a sentence at the top, and the reader with it. */
export function showNotice(notice: HTMLElement, title: string, tone: 'mend' | 'done', more?: Element): void {
  const heading = document.createElement('h2');
  heading.textContent = title;
  notice.replaceChildren(heading, ...(more ? [more] : []));
  notice.className = `notice ${tone}`;
  notice.hidden = false;
  notice.focus();
}
