import type { Day } from '../basics/days.ts';
import { dayIn } from '../basics/days.ts';
import { fault } from '../basics/fault.ts';
import { type Moment, withOffset } from '../basics/moments.ts';
import type { Circumstances } from '../basics/verdict.ts';
import type { Settings } from './settings.ts';

/** What rules may know besides the data, outside of a judgement. */
export function circumstancesAt(now: Date, zone: string | undefined, occasion = ''): Circumstances {
  return new Now({ now, zone, occasion, signal: undefined });
}

type Clock = Pick<Settings, 'now' | 'zone' | 'occasion' | 'signal'>;

/** Works out what is asked for, since most judgements need neither the day nor a signal. */
export class Now implements Circumstances {
  readonly #settings: Clock;
  #now: number | undefined;
  #signal: AbortSignal | undefined;
  constructor(settings: Clock, signal?: AbortSignal) {
    this.#settings = settings;
    this.#signal = signal ?? settings.signal;
  }
  get today() {
    const { zone } = this.#settings;
    return dayIn(zone ?? fault("A rule asks for today, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'."), this.now);
  }
  /** Read once, when it is first asked for; a new object each time, since a rule may change what it is handed. */
  get now() {
    this.#now ??= (this.#settings.now ?? new Date()).getTime();
    return new Date(this.#now);
  }
  get occasion() {
    return this.#settings.occasion;
  }
  dayOf(moment: string): Day {
    const { zone } = this.#settings;
    return dayIn(
      zone ?? fault("A rule asks for the day of a moment, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'."),
      new Date(moment),
    );
  }
  startOf(day: Day): Moment {
    const { zone } = this.#settings;
    return withOffset(
      `${day}T00:00`,
      zone ?? fault("A rule asks when a day begins, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'."),
    ) as Moment;
  }
  get signal() {
    this.#signal ??= new AbortController().signal;
    return this.#signal;
  }
  /** The same under another signal. */
  under(signal: AbortSignal): Now {
    return new Now({ ...this.#settings, now: this.now }, signal);
  }
}
