/** Signed out while a form is open: whoever signs in here, in the summary, goes on with what was typed. */
export async function offerSignIn(form: HTMLFormElement, summary: HTMLElement): Promise<void> {
  const page = new DOMParser().parseFromString(await (await fetch('/sign-in')).text(), 'text/html');
  const row = document.createElement('p');
  row.dataset.findings = '';
  for (const choice of page.querySelectorAll<HTMLFormElement>('form.choice')) {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'quiet';
    button.textContent = choice.querySelector('button')?.textContent ?? '';
    button.addEventListener('click', async () => {
      const body = new URLSearchParams([...new FormData(choice)].map(([name, value]) => [name, String(value)]));
      await fetch('/sign-in', { method: 'POST', body });
      summary.hidden = true;
      form.requestSubmit();
    });
    row.append(button, ' ');
  }
  summary.append(row);
  row.querySelector('button')?.focus();
}
