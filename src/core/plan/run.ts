import { type Day, dayIn } from '../days.ts';
import { fault } from '../fault.ts';
import { textIn } from '../messages/render.ts';
import type { Severity } from '../rules/use.ts';
import { type Texts, WITHHELD } from '../text.ts';
import type { Circumstances, Finding, Place, TraceLine, Why } from '../verdict.ts';
import type { Amending } from './amending.ts';
import { ENTRY, type EntryKey, type Frame, type PlaceSpec, type Plan, type UseInfo } from './plan.ts';

/** The settings of one judgement, with every default filled in. */
export interface Settings {
  readonly now: Date;
  readonly zone: string | undefined;
  readonly occasion: string;
  readonly isForm: boolean;
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly signal: AbortSignal | undefined;
  readonly explain: boolean;
  /** Undeclared keys are findings. */
  readonly refuseStrangers: boolean;
  /** Of a form: the paths of check boxes that it is known to have shown. */
  readonly shown: ReadonlySet<string> | undefined;
}

/** Undeclared keys named in findings. */
const MOST_STRANGERS = 100;

/** What became of a use on trial. */
export interface Tried {
  readonly info: UseInfo;
  readonly failure?: Failure;
  readonly open?: Open;
}

/** One use that did not hold: ids, places and facts. The sentence is made at the edge. */
export interface Failure {
  readonly info: UseInfo;
  readonly spots: readonly Spot[];
  readonly facts: Finding['facts'];
  /** What only the message needs. */
  readonly words: { readonly [slot: string]: Texts | readonly Texts[] };
  readonly labels: { readonly [role: string]: Texts };
}

/** A place, with the entries that it is in. */
export interface Spot {
  readonly place: PlaceSpec;
  readonly indexes: readonly EntryKey[];
  /** An undeclared key under the place. */
  readonly key?: string;
}

export interface Open {
  readonly info: UseInfo;
  readonly spots: readonly Spot[];
  readonly why: Why;
  readonly cause: unknown;
}

/** What one judgement knows and has found so far. Made anew for each, so that nothing of one submission outlives it. */
export class Run {
  readonly frame: Frame;
  /** The frames around a rule that is evaluated on the submission as a whole. */
  readonly rootFrames: readonly Frame[];
  readonly failures: Failure[] = [];
  readonly unsettled: Open[] = [];
  readonly trace: TraceLine[] | undefined;
  readonly at: Now;
  /** Of uses on trial: they decide nothing. */
  tried: Tried[] | undefined;
  /** Values are only read into frames; presence and value rules come later. */
  isReadingOnly = false;
  strangersLeft = MOST_STRANGERS;
  #spent = 0;
  /** What was found by cause and places; the same is told once. */
  #told: Map<string, Severity> | undefined;
  /** The warnings among them, which an error replaces. */
  #warnings: Map<string, Failure> | undefined;
  /** Pointers of the places that an error blames; most judgements have none. */
  #failedAt: Set<string> | undefined;
  hasErrors = false;

  constructor(
    readonly plan: Plan,
    readonly settings: Settings,
    /** What changes, when a stored record is amended. */
    readonly amending?: Amending,
  ) {
    this.frame = newFrame(plan.size);
    this.rootFrames = [this.frame];
    this.trace = settings.explain ? [] : undefined;
    this.at = new Now(settings);
  }

  /** Entries that may be read and handed to rules, in all. */
  get budget(): number {
    return this.plan.budget;
  }

  /** Counts entries that are read, or handed to a rule; whether the submission may still cost that much. */
  spend(entries: number): boolean {
    this.#spent += entries;
    return this.#spent <= this.budget;
  }

  fail(info: UseInfo, spots: readonly Spot[], facts: Finding['facts'], words: Failure['words'], labels: Failure['labels']): void {
    const failure = { info, spots, facts, words, labels };
    if (info.isTrial) {
      this.#try({ info, failure });
      return;
    }
    this.failures.push(failure);
    if (info.severity === 'warning') return;
    this.hasErrors = true;
    this.#failedAt ??= new Set();
    for (const spot of spots) this.#failedAt.add(pointerOf(spot));
  }

  /** Whether an error blames this place already. */
  hasFailedAt(pointer: string): boolean {
    return this.#failedAt?.has(pointer) ?? false;
  }

  /**
   * Adds what a use found, unless the same was found at the same places already: under another condition, or by another
   * entry. An error stands for a warning.
   */
  failOnce(cause: string, ...[info, spots, ...more]: Parameters<Run['fail']>): void {
    const key = `${info.isTrial} ${cause} ${spots.map(pointerOf).sort().join(' ')}`;
    this.#told ??= new Map();
    const earlier = this.#told.get(key);
    if (earlier === 'error' || (earlier === 'warning' && info.severity === 'warning')) return;
    if (earlier) this.#takeBack(key);
    this.fail(info, spots, ...more);
    this.#told.set(key, info.severity);
    if (info.severity === 'error' || info.isTrial) return;
    this.#warnings ??= new Map();
    this.#warnings.set(key, this.failures.at(-1) as Failure);
  }

  /** Before the rules look again: what they found at first is forgotten. */
  forget(): void {
    this.failures.length = 0;
    this.hasErrors = false;
    const kept = this.trace?.filter(({ step }) => step !== 'record');
    if (this.trace && kept) this.trace.splice(0, this.trace.length, ...kept);
    this.#told = undefined;
    this.#warnings = undefined;
  }

  #takeBack(key: string): void {
    const warning = this.#warnings?.get(key);
    if (warning) this.failures.splice(this.failures.indexOf(warning), 1);
  }

  leaveOpen(info: UseInfo, spots: readonly Spot[], why: Why, cause?: unknown): void {
    const open = { info, spots, why, cause };
    if (info.isTrial) this.#try({ info, open });
    else this.unsettled.push(open);
  }

  /** Notes that a use on trial held. */
  held(info: UseInfo): void {
    if (info.isTrial) this.#try({ info });
  }

  #try(tried: Tried): void {
    this.tried ??= [];
    this.tried.push(tried);
  }

  explain(info: UseInfo, step: TraceLine['step'], outcome: TraceLine['outcome'], why?: string, because?: readonly string[]): void {
    if (outcome === 'held') this.held(info);
    this.trace?.push({
      rule: info.rule,
      use: info.use,
      step,
      outcome,
      ...(why !== undefined && { why }),
      ...(because && because.length > 0 && { because }),
    });
  }
}

/** Empty frames to copy, by size: a copy takes no more room than it needs, and one that grows does. */
const emptyFrames: Frame[] = [];

export function newFrame(size: number): Frame {
  let empty = emptyFrames[size];
  if (!empty) {
    empty = [];
    for (let slot = 0; slot < size; slot++) empty.push(undefined);
    emptyFrames[size] = empty;
  }
  return empty.slice();
}

/** What rules may know besides the data, outside of a judgement. */
export function circumstancesAt(now: Date, zone: string | undefined, occasion = ''): Circumstances {
  return new Now({ now, zone, occasion, signal: undefined });
}

type Clock = Pick<Settings, 'now' | 'zone' | 'occasion' | 'signal'>;

/** Works out what is asked for, since most judgements need neither the day nor a signal. */
class Now implements Circumstances {
  readonly #settings: Clock;
  #signal: AbortSignal | undefined;
  constructor(settings: Clock, signal?: AbortSignal) {
    this.#settings = settings;
    this.#signal = signal ?? settings.signal;
  }
  get today() {
    const { zone, now } = this.#settings;
    return dayIn(zone ?? fault("A rule asks for today, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'."), now);
  }
  get now() {
    return this.#settings.now;
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
  get signal() {
    this.#signal ??= new AbortController().signal;
    return this.#signal;
  }
  /** The same under another signal. */
  under(signal: AbortSignal): Now {
    return new Now(this.#settings, signal);
  }
}

/** The JSON Pointer (RFC 6901) of a place, with the indexes of the entries that it is in; it may tell a secret name. */
export function pointerOf({ place, indexes, key }: Spot): string {
  return pointerWith(place, indexes, key);
}

/** The same for people: the names of a secret table are withheld. */
export function shownPointer({ place, indexes, key }: Spot): string {
  if (place.secretNames === 0) return pointerWith(place, indexes, key);
  const shown = indexes.map((name, depth) => (typeof name === 'string' && depth >= place.secretNames - 1 ? WITHHELD : name));
  return pointerWith(place, shown, key);
}

function pointerWith(place: PlaceSpec, indexes: readonly EntryKey[], key: string | undefined): string {
  let pointer = '';
  let entry = 0;
  for (const segment of place.segments) {
    pointer += `/${segment === ENTRY ? entryText(indexes[entry++]) : escapeSegment(segment)}`;
  }
  return key === undefined ? pointer : `${pointer}/${escapeSegment(key)}`;
}

function entryText(key: EntryKey | undefined): string {
  return typeof key === 'string' ? escapeSegment(key) : String(key ?? '*');
}

function escapeSegment(segment: string): string {
  return segment.includes('~') || segment.includes('/') ? segment.replaceAll('~', '~0').replaceAll('/', '~1') : segment;
}

export function placeOf(spot: Spot, locale: string | undefined): Place {
  const { path, label } = spot.place;
  const pointer = shownPointer(spot);
  return label === '' ? { field: path, pointer } : { field: path, pointer, label: textIn(label, locale) };
}
