/** What the page shows of a finding, whether it comes from the desk or from the page's own judgement. */
export interface ShownFinding {
  readonly pointers: readonly string[];
  readonly message: string;
}

/** Shows findings beside their fields; takes away what was shown before. A field that is blamed second points to the first. */
export function showBeside(form: HTMLFormElement, findings: readonly ShownFinding[], language: string): void {
  for (const old of form.querySelectorAll('.finding')) old.remove();
  for (const home of form.querySelectorAll<HTMLElement>('[data-field]')) {
    const pointer = home.dataset.field as string;
    const blaming = findings
      .map((finding, index) => ({ ...finding, id: `finding-${index}` }))
      .filter(({ pointers }) => pointers.includes(pointer));
    for (const { id, pointers, message } of blaming) if (pointers[0] === pointer) home.append(lineOf(id, message, language));
    const control = controlIn(home);
    if (control)
      mark(
        control,
        blaming.map(({ id }) => id),
      );
  }
}

function lineOf(id: string, message: string, language: string): HTMLElement {
  const line = document.createElement('p');
  line.className = 'finding';
  line.id = id;
  line.lang = language;
  line.textContent = message;
  return line;
}

function mark(control: Element, findings: readonly string[]): void {
  const hints = (control.getAttribute('aria-describedby') ?? '').split(' ').filter((id) => id !== '' && !id.startsWith('finding-'));
  const describedBy = [...hints, ...findings].join(' ');
  if (describedBy) control.setAttribute('aria-describedby', describedBy);
  else control.removeAttribute('aria-describedby');
  if (findings.length > 0) control.setAttribute('aria-invalid', 'true');
  else control.removeAttribute('aria-invalid');
}

function controlIn(home: Element): HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement | null {
  return home.querySelector('input, select, textarea');
}

/** Lists findings at the top, each linked to its field, and moves there. */
export function showSummary(notice: HTMLElement, form: HTMLFormElement, findings: readonly ShownFinding[], language: string): void {
  const count = findings.length === 1 ? 'one thing' : `${findings.length} things`;
  const links = findings.map(({ pointers, message }) => {
    const item = document.createElement('li');
    const target = targetOf(form, pointers[0] ?? '');
    const link = document.createElement(target ? 'a' : 'span');
    link.append(entryOf(pointers[0] ?? ''), sentence(message, language));
    if (target) link.setAttribute('href', `#${target.id}`);
    item.append(link);
    return item;
  });
  const list = document.createElement('ul');
  list.append(...links);
  showNotice(notice, `Not booked yet: please look at ${count}.`, 'mend', list);
}

function sentence(message: string, language: string): HTMLElement {
  const span = document.createElement('span');
  span.lang = language;
  span.textContent = message;
  return span;
}

/** Says which member of the crew a finding is about. */
function entryOf(pointer: string): string {
  const index = /^\/crew\/(\d+)\//.exec(pointer)?.[1];
  return index === undefined ? '' : `Crew member ${Number(index) + 1}: `;
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
