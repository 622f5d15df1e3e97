import { certifiedRegistration, deskBooking, deskPowerOrder, ownerSignUp } from '@pellwick/marina';
import { type BoundForm, bindForm } from 'jestril/browser';
import { crewRows } from './crew.ts';
import { offerSignIn } from './sign-in.ts';
import './style.css';

// What the pages gain by a script: fields judged as they are left, forms sent without losing files, rows of the crew.

const intakes = [deskBooking, certifiedRegistration, ownerSignUp, deskPowerOrder];
/** Never what the server trusts: the page only needs to know that a guest is filling the form. */
const given = { caller: { id: 0, staff: false } };

for (const form of document.querySelectorAll<HTMLFormElement>('form[data-intake]')) bind(form);
document.querySelector<HTMLElement>('[data-done]')?.focus();
keepPanelFolded();

function bind(form: HTMLFormElement): void {
  const intake = intakes.find(({ name }) => name === form.dataset.intake);
  if (!intake) return;
  const summary = form.querySelector<HTMLElement>('[data-summary]') ?? undefined;
  const judgeAt = form.dataset.judgeAt || undefined;
  const stored = form.querySelector('[data-stored]')?.textContent;
  const bound = bindForm(form, intake, {
    given,
    ...(summary && { summary }),
    ...(stored && { stored: JSON.parse(stored) as object }),
    ...(judgeAt !== undefined && { judgeAt }),
    ...(form.method === 'post' && { send: (data: FormData, signal: AbortSignal) => send(form, data, signal) }),
    async onAnswer(response) {
      await showPanel();
      const { location = null } = await response.json().catch(() => ({}));
      const next = response.headers.get('location') ?? location;
      if (response.ok && next) window.location.assign(next);
      else if (response.status === 401 && summary) await offerSignIn(form, summary);
    },
  });
  rowsOf(form, bound);
}

function send(form: HTMLFormElement, data: FormData, signal: AbortSignal): Promise<Response> {
  const isMultipart = form.enctype === 'multipart/form-data';
  const body = isMultipart ? data : new URLSearchParams([...data].map(([name, value]) => [name, String(value)]));
  return fetch(form.action, { method: 'POST', body, headers: { accept: 'application/json' }, signal });
}

function rowsOf(form: HTMLFormElement, bound: BoundForm): void {
  const list = form.querySelector<HTMLElement>('#crew-list');
  const add = form.querySelector<HTMLElement>('[data-add]');
  if (list && add) crewRows(list, add, () => bound.refresh());
}

/** The panel tells of the last submission. */
async function showPanel(): Promise<void> {
  const text = await fetch('/panel').then(
    (response) => response.text(),
    () => '',
  );
  const fresh = new DOMParser().parseFromString(text, 'text/html').querySelector('#panel details > :not(summary)')?.parentElement;
  const details = document.querySelector<HTMLDetailsElement>('#panel details');
  if (!fresh || !details) return;
  const { open } = details;
  details.replaceChildren(...fresh.children);
  details.open = open;
}

/** Folded away once, the panel stays folded away. */
function keepPanelFolded(): void {
  const details = document.querySelector<HTMLDetailsElement>('#panel details');
  if (!details) return;
  if (sessionStorage.getItem('panel') === 'folded') details.open = false;
  details.addEventListener('toggle', () => sessionStorage.setItem('panel', details.open ? 'open' : 'folded'));
}
