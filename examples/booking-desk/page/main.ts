import { berthBooking } from '@pellwick/marina';
import { formObject } from 'jestril/form';
import { crewRows } from './crew.ts';
import { type ShownFinding, showBeside, showNotice, showSummary } from './findings.ts';

const form = element<HTMLFormElement>('booking');
const notice = element('notice');
const crew = crewRows(element('crew-list'), element('add-crew'));

const language = element<HTMLSelectElement>('language');
language.value = ['de', 'pl'].find((known) => navigator.language.startsWith(known)) ?? 'en';

/** The fields that were left or sent, by pointer; only these are blamed. */
const seen = new Set<string>();
/** What the desk said that the page cannot judge by itself, until its field changes. */
let fromDesk: readonly ShownFinding[] = [];

function element<T extends HTMLElement = HTMLElement>(id: string): T {
  return document.getElementById(id) as T;
}

function typed(): URLSearchParams {
  return new URLSearchParams([...new FormData(form)].map(([name, value]) => [name, String(value)]));
}

/** The same intake as behind the API, on what stands in the form now. */
function judgeHere(): readonly ShownFinding[] {
  const verdict = berthBooking.judgeLocally(formObject(typed()), {
    as: 'form',
    locale: language.value,
    report: 'firstOfEach',
    given: { caller: { id: 1, staff: false } },
  });
  if (verdict.outcome !== 'rejected') return [];
  return verdict.findings.map(({ places, message }) => ({ pointers: places.map(({ pointer }) => pointer), message }));
}

form.addEventListener('change', ({ target }) => {
  const pointer = (target as Element).closest<HTMLElement>('[data-field]')?.dataset.field;
  if (pointer === undefined) return;
  seen.add(pointer);
  fromDesk = fromDesk.filter(({ pointers }) => !pointers.includes(pointer));
  afterClick(() => {
    const here = judgeHere().filter(({ pointers }) => pointers.every((blamed) => seen.has(blamed)));
    showBeside(form, [...here, ...fromDesk], language.value);
  });
});

let isPressed = false;
addEventListener('pointerdown', () => {
  isPressed = true;
});
addEventListener('pointerup', () => {
  isPressed = false;
});

/** A finding that appears while a button is being pressed would move it away from under the pointer. */
function afterClick(action: () => void): void {
  if (isPressed) addEventListener('pointerup', () => setTimeout(action), { once: true });
  else action();
}

form.addEventListener('submit', async (event) => {
  event.preventDefault();
  const response = await fetch('/api/bookings', { method: 'POST', body: typed(), headers: { 'accept-language': language.value } }).catch(
    () => undefined,
  );
  const answer = await response?.json().catch(() => undefined);
  if (response?.status === 201) return accepted(answer);
  if (response?.status === 422) return rejected(answer.findings);
  showNotice(notice, answer?.title ?? 'The desk does not answer. What you typed is still here; please send it again in a moment.', 'mend');
});

function rejected(findings: readonly ShownFinding[]): void {
  for (const home of form.querySelectorAll<HTMLElement>('[data-field]')) seen.add(home.dataset.field as string);
  const here = new Set(judgeHere().map(({ message }) => message));
  fromDesk = findings.filter(({ message }) => !here.has(message));
  forgetSecrets();
  showBeside(form, findings, language.value);
  showSummary(notice, form, findings, language.value);
}

async function accepted({ id, berth, arrives }: { id: number; berth: string; arrives: string }): Promise<void> {
  form.reset();
  crew.reset();
  seen.clear();
  fromDesk = [];
  showBeside(form, [], language.value);
  await showBookings(id);
  showNotice(notice, `Booked: berth ${berth} from ${dayText(arrives)}. Your booking number is ${id}.`, 'done');
}

/** What was typed stays, secrets do not. */
function forgetSecrets(): void {
  for (const secret of form.querySelectorAll<HTMLInputElement>('input[type=password]')) secret.value = '';
}

async function showBookings(newest?: number): Promise<void> {
  const bookings = (await (await fetch('/api/bookings')).json()) as {
    id: number;
    berth: string;
    mark: string;
    arrives: string;
    departs: string;
    guests: number;
  }[];
  const rows = bookings.map(({ id, berth, mark, arrives, departs, guests }) => {
    const row = document.createElement('tr');
    row.className = id === newest ? 'new' : '';
    for (const value of [berth, mark, dayText(arrives), dayText(departs), guests]) row.insertCell().textContent = String(value);
    return row;
  });
  element('booking-rows').replaceChildren(...rows);
}

/** A day as people read it. */
function dayText(day: string): string {
  return new Date(day).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });
}

async function showBerths(): Promise<void> {
  const berths = (await (await fetch('/api/berths')).json()) as { code: string; maxLength: number }[];
  for (const { code, maxLength } of berths) element<HTMLSelectElement>('berth').add(new Option(`${code}, up to ${maxLength} m`, code));
}

await Promise.all([showBerths(), showBookings()]);
