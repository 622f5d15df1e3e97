/** The rows of the crew: added, taken away, and numbered so that names and pointers agree. */
export function crewRows(list: HTMLElement, add: HTMLElement): { reset(): void } {
  const addRow = (): HTMLLIElement => {
    const row = document.createElement('li');
    row.innerHTML = `
      <div class="field"><label>Name</label><input autocomplete="off" /></div>
      <div class="field"><label>Born</label><input type="date" /></div>
      <button type="button" class="quiet">Remove</button>`;
    row.querySelector('button')?.addEventListener('click', () => {
      const next = (row.nextElementSibling ?? row.previousElementSibling)?.querySelector('input');
      row.remove();
      number(list);
      (next ?? add).focus();
    });
    list.append(row);
    number(list);
    return row;
  };
  add.addEventListener('click', () => addRow().querySelector('input')?.focus());
  addRow();
  return {
    reset() {
      list.replaceChildren();
      addRow();
    },
  };
}

function number(list: HTMLElement): void {
  for (const [index, row] of [...list.children].entries()) {
    for (const [at, part] of ['name', 'born'].entries()) {
      const field = row.querySelectorAll<HTMLElement>('.field')[at] as HTMLElement;
      const input = field.querySelector('input') as HTMLInputElement;
      field.dataset.field = `/crew/${index}/${part}`;
      input.name = `crew.${index}.${part}`;
      input.id = `crew-${index}-${part}`;
      field.querySelector('label')?.setAttribute('for', input.id);
    }
    row.querySelector('button')?.setAttribute('aria-label', `Remove crew member ${index + 1}`);
  }
}
