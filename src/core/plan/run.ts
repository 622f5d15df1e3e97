import { dayIn } from '../days.ts';
import { fault } from '../fault.ts';
import { textIn } from '../messages/render.ts';
import type { Texts } from '../text.ts';
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
  /** Values are only read, and no rule runs. */
  readonly isQuiet?: boolean;
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

  fail(info: UseInfo, spots: readonly Spot[], facts: Finding['facts'], words: Failure['words'], labels: Failure['labels']): void {
    this.failures.push({ info, spots, facts, words, labels });
    if (info.severity === 'warning') return;
    this.hasErrors = true;
    this.#failedAt ??= new Set();
    for (const spot of spots) this.#failedAt.add(pointerOf(spot));
  }

  /** Whether an error blames this place already. */
  hasFailedAt(pointer: string): boolean {
    return this.#failedAt?.has(pointer) ?? false;
  }

  leaveOpen(info: UseInfo, spots: readonly Spot[], why: Why, cause?: unknown): void {
    this.unsettled.push({ info, spots, why, cause });
  }

  explain(info: UseInfo, step: TraceLine['step'], outcome: TraceLine['outcome'], why?: string, because?: readonly string[]): void {
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

/** Works out what is asked for, since most judgements need neither the day nor a signal. */
class Now implements Circumstances {
  readonly #settings: Settings;
  #signal: AbortSignal | undefined;
  constructor(settings: Settings, signal?: AbortSignal) {
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
  get signal() {
    this.#signal ??= new AbortController().signal;
    return this.#signal;
  }
  /** The same under another signal. */
  under(signal: AbortSignal): Now {
    return new Now(this.#settings, signal);
  }
}

/** The JSON Pointer (RFC 6901) of a place, with the indexes of the entries that it is in. */
export function pointerOf({ place, indexes, key }: Spot): string {
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
  return label === '' ? { field: path, pointer: pointerOf(spot) } : { field: path, pointer: pointerOf(spot), label: textIn(label, locale) };
}
