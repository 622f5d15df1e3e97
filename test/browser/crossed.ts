import {
  choice,
  collection,
  entries,
  equals,
  group,
  intake,
  known,
  list,
  oneOfShapes,
  rule,
  same,
  shape,
  text,
  unique,
  whole,
} from 'jestril';
import { bindForm } from 'jestril/browser';
import { formObject } from 'jestril/form';
import { memoryRecords } from 'jestril/memory';
import { Random } from '../support/random.ts';

// Somebody who fills in a form at random, before a server whose answers come late, crossed, or not at all. After each step everything
// that the page shows is held against what judging says of the form as it stands, by the page and by the server.

const owners = collection('owners', { email: text, town: text }, { key: 'email' });
const berths = collection('berths', { code: text, most: whole, plug: text }, { key: 'code' });
const accounts = collection('accounts', { number: text }, { key: 'number' });
const people = collection('people', { name: text }, { key: 'name' });
const fits = rule(
  'crossed/fits',
  { crew: entries({ name: text }), berth: text },
  {
    looksUp: { found: berths.one({ code: 'berth' }, ['most']) },
    holds: ({ crew }, { found }) => crew.length <= found.most,
    message: 'Too many for this berth.',
    blames: 'berth',
  },
);
const crossed = intake(
  'crossed',
  {
    email: text('E-mail'),
    town: text('Town').orAbsent(),
    phrase: text('Phrase').secret().orAbsent(),
    again: text('Phrase again').secret().orAbsent(),
    vessel: choice('Vessel', ['sail', 'electric']),
    berth: text('Berth'),
    pay: oneOfShapes('Payment', 'by', {
      account: shape({ number: text('Number') }),
      office: shape({ number: text('Number').orAbsent() }),
    }).orAbsent(),
    crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
  },
  {
    rules: [
      unique(owners, { email: 'email', town: 'town' }),
      known(berths, { plug: 'vessel', code: 'berth' }, { when: equals({ town: 'Aas' }) }),
      known(people, { name: 'crew.*.name' }),
      known(accounts, { number: 'pay.account.number' }),
      fits({ crew: { name: 'crew.*.name' }, berth: 'berth' }),
      same({ first: 'phrase', second: 'again' }),
    ],
  },
);

const records = memoryRecords({
  owners: [
    { email: 'ida@x.example', town: 'Aas' },
    { email: 'bo@x.example', town: 'Bo' },
  ],
  berths: [
    { code: 'A1', most: 1, plug: 'electric' },
    { code: 'A2', most: 2, plug: 'sail' },
  ],
  accounts: [{ number: '7' }],
  people: [{ name: 'Ida' }, { name: 'Bo' }],
});
const TYPED: { readonly [name: string]: readonly string[] } = {
  email: ['ida@x.example', 'bo@x.example', 'liv@x.example', ''],
  town: ['Aas', 'Aas', 'Bo', ''],
  phrase: ['gulls', ''],
  again: ['gulls', 'terns', ''],
  vessel: ['sail', 'electric', 'steam', ''],
  berth: ['A1', 'A1', 'A2', 'A3', ''],
  by: ['account', 'account', 'office', ''],
  number: ['7', '8', '8', ''],
  name: ['Ida', 'Ida', 'Bo', 'Liv', ''],
};

interface Sent {
  readonly rule: string;
  readonly at: readonly string[];
  readonly message: string;
}
async function judged(pairs: Iterable<readonly [string, unknown]>, report: 'everything' | 'firstOfEach'): Promise<Sent[]> {
  const verdict = await crossed.judge(formObject(pairs), { as: 'form', records, report });
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  return findings.map(({ rule: id, places, message }) => ({ rule: id, at: places.map(({ pointer }) => pointer), message }));
}

/** A form with a row of the crew, and what a random hand does to it. */
class Hand {
  readonly #random: Random;
  readonly form = document.createElement('form');
  readonly #fields = document.createElement('fieldset');
  /** What waits for the server. */
  readonly #waiting: { readonly answer: () => Promise<void>; readonly fail: () => void }[] = [];
  readonly bound;
  wasSent = 0;
  wasRefused = 0;

  constructor(seed: number) {
    this.#random = new Random(seed);
    this.form.append(this.#fields);
    for (const name of ['email', 'town', 'phrase', 'again', 'vessel', 'berth', 'pay.by', 'pay.number']) this.#fields.append(field(name));
    for (const _row of [1, 2]) this.addRow();
    document.body.append(this.form);
    window.fetch = (_address, init) => this.#asked((init as { body: URLSearchParams }).body, (init as { signal: AbortSignal }).signal);
    this.bound = bindForm(this.form, crossed, {
      judgeAt: '/crossed',
      wait: 0,
      send: (data, signal) => {
        this.wasSent++;
        if (this.#random.below(3) === 0) this.#fields.disabled = true;
        return this.#asked(data.entries(), signal);
      },
      onAnswer: () => {
        this.#fields.disabled = false;
      },
      onTrouble: () => {
        this.#fields.disabled = false;
      },
    });
  }

  #asked(entriesSent: Iterable<[string, unknown]>, signal: AbortSignal): Promise<Response> {
    const pairs = [...entriesSent];
    return new Promise((resolve, reject) => {
      const fail = () => reject(new TypeError('There is no network.'));
      signal.addEventListener('abort', fail);
      this.#waiting.push({
        fail,
        answer: async () => {
          const findings = await judged(pairs, 'firstOfEach');
          const headers = { 'content-type': 'application/problem+json' };
          resolve(new Response(JSON.stringify({ findings }), { status: findings.length > 0 ? 422 : 200, headers }));
        },
      });
    });
  }

  rows(): HTMLElement[] {
    return [...document.querySelectorAll<HTMLElement>('[data-row]')];
  }

  addRow(): void {
    const row = field('crew.0.name');
    row.dataset.row = '';
    this.#fields.append(row);
    this.#number();
  }

  #number(): void {
    for (const [index, row] of this.rows().entries()) {
      row.dataset.field = `/crew/${index}/name`;
      (row.firstElementChild as HTMLInputElement).name = `crew.${index}.name`;
    }
  }

  submit(): void {
    const before = this.wasSent;
    this.form.requestSubmit();
    if (this.wasSent === before) this.wasRefused++;
  }

  /** Answers all that waits. */
  async settle(): Promise<void> {
    while (this.#waiting.length > 0) {
      await this.#waiting.shift()?.answer();
      await turn();
    }
  }

  async step(): Promise<string> {
    const random = this.#random;
    const inputs = [...this.form.elements].filter((element): element is HTMLInputElement => element instanceof HTMLInputElement);
    const action = random.pick([
      'type',
      'type',
      'type',
      'type',
      'leave',
      'answer',
      'answer',
      'fail',
      'add',
      'remove',
      'swap',
      'send',
      'move',
    ]);
    if (action === 'type' || action === 'leave') {
      const input = random.pick(inputs);
      if (input.matches(':disabled')) return 'nothing';
      if (action === 'type') {
        input.value = random.pick(TYPED[input.name.split('.').at(-1) as string] as string[]);
        input.dispatchEvent(new Event('input', { bubbles: true, composed: true }));
      }
      if (action === 'leave' || random.below(2) === 0) {
        if (action === 'type') input.dispatchEvent(new Event('change', { bubbles: true }));
        input.dispatchEvent(new FocusEvent('focusout', { bubbles: true, composed: true }));
      }
      return `${action} ${input.name} ${input.value}`;
    }
    if (action === 'add' && this.rows().length < 4) this.addRow();
    if (action === 'remove') random.maybePick(this.rows())?.remove();
    if (action === 'swap') this.rows()[0]?.before(...this.rows().slice(-1));
    // Out of its form, to which it belongs all the same.
    const input = random.pick(inputs);
    if (action === 'move' && !input.name.includes('.')) {
      this.form.id = 'crossed';
      input.setAttribute('form', 'crossed');
      document.body.append(input.parentElement as HTMLElement);
    }
    if (action === 'send') this.submit();
    this.#number();
    const [next] = this.#waiting.splice(random.below(this.#waiting.length || 1), action === 'answer' || action === 'fail' ? 1 : 0);
    if (action === 'answer') await next?.answer();
    else next?.fail();
    return action;
  }

  /** What stands in the form, as if nothing were disabled. */
  entries(): [string, unknown][] {
    const { disabled } = this.#fields;
    this.#fields.disabled = false;
    const all = [...new FormData(this.form)];
    this.#fields.disabled = disabled;
    return all;
  }

  leave(): void {
    this.bound.release();
    for (const element of document.querySelectorAll('[data-field]')) element.remove();
    this.form.remove();
  }
}

function field(name: string): HTMLElement {
  const home = document.createElement('div');
  home.dataset.field = `/${name.replaceAll('.', '/')}`;
  home.append(Object.assign(document.createElement('input'), { name }));
  return home;
}

const turn = () => new Promise((resolve) => setTimeout(resolve));

/** What the page shows and should not, in words. */
async function faultsOf(hand: Hand): Promise<string[]> {
  const shown = [...document.querySelectorAll<HTMLElement>('[data-finding]')];
  const holds = await judged(hand.entries(), 'everything');
  const told = shown.map((line) => {
    const at = (line.parentElement as HTMLElement).dataset.field as string;
    return { at, message: line.textContent, finding: holds.find((each) => each.at[0] === at && each.message === line.textContent) };
  });
  const stale = told.flatMap(({ at, message, finding }) => (finding ? [] : [`At ${at} it says "${message}", which does not hold.`]));
  const blamed = new Set(told.flatMap(({ finding }) => finding?.at ?? []));
  const wrong = [...document.querySelectorAll<HTMLInputElement>('[data-field] > input')].flatMap((input) => {
    const at = (input.parentElement as HTMLElement).dataset.field as string;
    const isInvalid = input.getAttribute('aria-invalid') === 'true';
    const described = (input.getAttribute('aria-describedby') ?? '').split(' ').filter((id) => id !== '');
    const lost = described.filter((id) => !document.getElementById(id)).map((id) => `${at} is described by ${id}, which is not there.`);
    return isInvalid === blamed.has(at) ? lost : [...lost, `${at} is marked ${isInvalid ? 'as wrong' : 'as right'}.`];
  });
  // The summary lists the same, and what has no place.
  const listed = [...hand.form.querySelectorAll('[role=group] li')].map((item) => item.textContent.replace(/^Member \d+: /, ''));
  const homeless = holds.filter(({ at: [first] }) => !document.querySelector(`[data-field="${first}"]`)).map(({ message }) => message);
  const lines = new Set(told.map(({ message }) => message));
  const isApart = listed.some((each) => !lines.has(each) && !homeless.includes(each)) || [...lines].some((each) => !listed.includes(each));
  // What an earlier answer has found is not listed before the next one comes.
  const isListed = hand.wasSent + hand.wasRefused > 0 && !hand.form.hasAttribute('aria-busy');
  const apart = isListed && isApart ? [`The summary lists ${listed}, the fields ${[...lines]}.`] : [];
  return [...stale, ...wrong, ...apart];
}

/** Fills in one form; tells what was done until something was wrong, and what. */
export async function fillIn(seed: number, steps: number): Promise<string[]> {
  const hand = new Hand(seed);
  const done: string[] = [];
  try {
    for (let step = 0; step < steps; step++) {
      done.push(await hand.step());
      await turn();
      await turn();
      const faults = await faultsOf(hand);
      if (faults.length > 0) return [`Seed ${seed}`, ...done, ...faults];
    }
    await hand.settle();
    // Whatever was lost on the way: what is sent is judged whole.
    const before = hand.wasSent;
    hand.submit();
    await hand.settle();
    await turn();
    const faults = await faultsOf(hand);
    const wanted = new Set((await judged(hand.entries(), 'firstOfEach')).map(({ at, message }) => `${at[0]} ${message}`));
    const shown = new Set(
      [...document.querySelectorAll<HTMLElement>('[data-finding]')].map(
        (line) => `${line.parentElement?.dataset.field} ${line.textContent}`,
      ),
    );
    if (hand.wasSent > before) faults.push(...[...wanted].filter((each) => !shown.has(each)).map((each) => `It does not say: ${each}`));
    return faults.length > 0 ? [`Seed ${seed}`, ...done, 'send', ...faults] : [];
  } finally {
    hand.leave();
  }
}
