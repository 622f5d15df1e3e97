/** The rows of the crew: added, taken away, and numbered so that names and pointers agree. */
export function crewRows(list: HTMLElement, adding: HTMLElement, onChange: () => void): void {
  const [first] = list.children as unknown as HTMLLIElement[];
  if (!first) return;
  // Blank rows to spare are for pages without a script.
  for (const row of [...list.children].slice(1)) if ([...row.querySelectorAll('input')].every(({ value }) => value === '')) row.remove();
  const pattern = first.cloneNode(true) as HTMLLIElement;
  for (const stale of pattern.querySelectorAll('[data-finding]')) stale.remove();

  const changed = () => {
    number(list);
    onChange();
  };
  const withButton = (row: Element) => {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'quiet';
    button.textContent = '×';
    button.addEventListener('click', () => {
      const next = (row.nextElementSibling ?? row.previousElementSibling)?.querySelector('input');
      row.remove();
      changed();
      (next ?? add).focus();
    });
    row.append(button);
  };
  const add = document.createElement('button');
  add.type = 'button';
  add.className = 'quiet';
  add.id = 'add-crew';
  add.textContent = adding.dataset.add ?? '+';
  add.addEventListener('click', () => {
    const row = pattern.cloneNode(true) as HTMLLIElement;
    for (const input of row.querySelectorAll('input')) input.value = '';
    withButton(row);
    list.append(row);
    changed();
    row.querySelector('input')?.focus();
  });
  adding.replaceChildren(add);
  for (const row of [...list.children]) withButton(row);
  number(list);
}

function number(list: HTMLElement): void {
  for (const [index, row] of [...list.children].entries()) {
    for (const field of row.querySelectorAll<HTMLElement>('[data-field]')) {
      const part = field.dataset.field?.split('/').at(-1) ?? '';
      const input = field.querySelector('input') as HTMLInputElement;
      field.dataset.field = `/crew/${index}/${part}`;
      input.name = `crew.${index}.${part}`;
      input.id = `crew-${index}-${part}`;
      field.querySelector('label')?.setAttribute('for', input.id);
    }
    row.querySelector('button')?.setAttribute('aria-label', `${list.dataset.remove ?? ''} ${index + 1}`);
  }
}
