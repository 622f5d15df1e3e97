import { readFileSync } from 'node:fs';
import { inspect } from 'node:util';
import type { Question, Records, Verdict } from 'jestril';
import { type MemoryData, memoryRecords } from 'jestril/memory';
import { type BerthBooking, berthBooking } from './index.ts';

// A short tour: three bookings are judged, and what comes back is told.

const read = (file: string) => readFileSync(new URL(`./data/${file}`, import.meta.url), 'utf8');
const stored = memoryRecords(JSON.parse(read('records.json')) as MemoryData);
const [good, bad] = read('bookings.ndjson')
  .trim()
  .split('\n')
  .map((line) => JSON.parse(line) as object);
const now = new Date('2031-04-20T08:00:00Z');

/** The records, with a note of what they are asked. */
function watched(records: Records): Records & { readonly rounds: (readonly Question[])[] } {
  const rounds: (readonly Question[])[] = [];
  return {
    rounds,
    ask(questions, signal) {
      rounds.push(questions);
      return records.ask(questions, signal);
    },
  };
}

const unreachable: Records = { ask: () => Promise.reject(new Error('connect ECONNREFUSED')) };

function tell(line = ''): void {
  console.log(line);
}

async function judge(title: string, submission: unknown, records: Records): Promise<void> {
  const asked = watched(records);
  const verdict = await berthBooking.judge(submission, { records: asked, now, given: { caller: { id: 1, staff: false } } });
  tell(title);
  tell(`   ${verdict.outcome.toUpperCase()}`);
  for (const line of linesOf(verdict)) tell(`   ${line}`);
  const questions = asked.rounds.flat();
  tell(
    `   (the records were asked ${questions.length} questions, in ${asked.rounds.length} ${asked.rounds.length === 1 ? 'round' : 'rounds'})`,
  );
  tell();
}

function linesOf(verdict: Verdict<BerthBooking>): string[] {
  switch (verdict.outcome) {
    case 'accepted': {
      const { gateCode: _secret, ...booking } = verdict.value;
      return inspect(booking, { breakLength: 110, compact: 4 }).split('\n');
    }
    case 'rejected':
      return verdict.findings.map(
        ({ places, message }) =>
          `${places
            .map(({ pointer }) => pointer)
            .join(' ')
            .padEnd(28)} ${message}`,
      );
    case 'undecided':
      return verdict.unsettled.map(({ use, why }) => `${use.padEnd(36)} ${why}`);
  }
}

tell('Pellwick Marina: the intake "berth-booking" judges three bookings. It is 20 April 2031.');
tell();
await judge('1. A vessel of 11.2 m for berth A1, on the day that the last guest departs.', good, stored);
await judge('2. The same vessel said to be 14.5 m long, departing before it arrives, with odd crew.', bad, stored);
await judge('3. The first booking again, while the store cannot be reached: not accepted, and nobody is blamed.', good, unreachable);
