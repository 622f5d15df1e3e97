import { addDays, type Day } from '../../../core/basics/days.ts';
import type { Verdict } from '../../../core/basics/verdict.ts';
import { planOf } from '../../../core/intake.ts';
import { toldOf } from '../../../core/kinds/told.ts';
import type { FieldStep } from '../../../core/plan/plan.ts';
import { circumstancesAt } from '../../../core/run/clock.ts';
import { segmentsOf } from '../../../forms/names.ts';
import { stepsAt } from '../../../forms/steps-at.ts';
import type { Band, Turning } from '../../../workbench/wire/judged.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { judgeSubject, type Subject } from './judged.ts';
import type { Made } from './settings-of.ts';

/** Values judged at first, and days to each side. */
const VALUES = 120;
const DAYS = 60;
/** Questions asked side by side. */
const AT_ONCE = 20;

/** Judges a submission with one number or day moved along, and finds where the verdict turns. */
export async function turningOf(intake: LoadedIntake, subject: Subject, made: Made, pointer: string): Promise<Turning> {
  const plan = planOf(intake);
  const segments = segmentsOf(pointer);
  const [found] = stepsAt(plan.fields, segments);
  const sort = found && toldOf(found.step.kind)?.shownAs;
  if (!found || (sort !== 'day' && sort !== 'number'))
    throw new Misuse(`${pointer || 'The whole submission'} is neither a number nor a day.`);
  const current = valueAt(subject.submission, segments);
  const at = circumstancesAt(made.options.now, plan.zone ?? 'UTC', made.options.occasion ?? plan.occasions[0] ?? '');
  const bounds = found.step.checks.flatMap(({ definition, takes }) => definition.edges?.(takes, at).bounds ?? []);
  const values = sort === 'day' ? daysAround(String(current), bounds, at.today) : numbersAround(found.step, current, bounds);
  const isText = made.options.as === 'form';
  const cache = new Map<string | number, Band>();
  const come = async (value: string | number): Promise<Band> => {
    const known = cache.get(value);
    if (known) return known;
    const verdict = await judgeSubject(
      intake,
      { ...subject, submission: withValue(subject.submission, segments, isText ? String(value) : value) },
      made.options,
    );
    const band = { from: value, to: value, outcome: verdict.outcome, by: usesOf(verdict) };
    cache.set(value, band);
    return band;
  };
  const first: Band[] = [];
  for (let start = 0; start < values.length; start += AT_ONCE)
    first.push(...(await Promise.all(values.slice(start, start + AT_ONCE).map(come))));
  const exact = sort === 'number' ? await sharpened(first, come, gapOf(found.step)) : first;
  return { pointer, sort, values, bands: joined(exact) };
}

function usesOf(verdict: Verdict<unknown>): string[] {
  const found = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
  return [...new Set([...found.map(({ use }) => use), ...verdict.unsettled.map(({ use }) => `${use}?`)])].sort();
}

const isAlike = (one: Band, other: Band) => one.outcome === other.outcome && one.by.join() === other.by.join();

function joined(bands: readonly Band[]): Band[] {
  const all: Band[] = [];
  for (const band of bands) {
    const last = all.at(-1);
    if (last && isAlike(last, band)) all[all.length - 1] = { ...last, to: band.to };
    else all.push(band);
  }
  return all;
}

/** Between two values that come to something else, the place of the turn, as near as numbers of the field can say. */
async function sharpened(bands: readonly Band[], come: (value: number) => Promise<Band>, gap: number): Promise<Band[]> {
  const all: Band[] = [];
  for (const [index, band] of bands.entries()) {
    all.push(band);
    const next = bands[index + 1];
    if (!next || isAlike(band, next)) continue;
    let [low, high] = [band, next];
    while (Number(high.from) - Number(low.from) > gap * 1.5) {
      const middle = await come(onGrid((Number(low.from) + Number(high.from)) / 2, gap));
      if (Number(middle.from) <= Number(low.from) || Number(middle.from) >= Number(high.from)) break;
      if (isAlike(middle, low)) low = middle;
      else high = middle;
    }
    all.push(low, high);
  }
  return all;
}

/** The least that two numbers of a field differ by: that of its rule about places, else hundredths. */
function gapOf({ kind, checks }: FieldStep): number {
  if (kind.storedAs === 'integer') return 1;
  const places = checks.map(({ takes }) => takes.places ?? takes.most).find((most) => typeof most === 'number' && most < 10);
  return checks.some(({ rule }) => rule === 'places') && typeof places === 'number' ? 10 ** -places : 0.01;
}

function onGrid(value: number, gap: number): number {
  return Number((Math.round(value / gap) * gap).toFixed(10));
}

function numbersAround(step: FieldStep, current: unknown, bounds: readonly (string | number)[]): number[] {
  const gap = gapOf(step);
  const known = [Number(current), ...bounds.map(Number)].filter(Number.isFinite);
  const [least, most] = [Math.min(...known, ...(known.length === 0 ? [0] : [])), Math.max(...known, ...(known.length === 0 ? [10] : []))];
  const room = Math.max((most - least) * 0.15, Math.abs(most) * 0.25, gap * 10);
  const from = least >= 0 && least - room < 0 ? Math.max(least - room, -room / 2) : least - room;
  const width = most + room - from;
  const even = Array.from({ length: VALUES + 1 }, (_, at) => onGrid(from + (width * at) / VALUES, gap));
  const around = known.flatMap((bound) => [onGrid(bound - gap, gap), bound, onGrid(bound + gap, gap)]);
  return [...new Set([...even, ...around])].sort((one, other) => one - other);
}

function daysAround(current: string, bounds: readonly (string | number)[], today: Day): string[] {
  const isDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(text));
  const middle = isDay(current) ? current : today;
  const days = new Set<string>();
  const around = (day: string, width: number) => {
    for (let by = -width; by <= width; by++) days.add(addDays(day as Day, by));
  };
  around(middle, DAYS);
  // A bound that is far away is tried at its edges.
  for (const bound of bounds) if (typeof bound === 'string' && isDay(bound)) around(bound, 2);
  return [...days].sort();
}

function valueAt(value: unknown, segments: readonly string[]): unknown {
  return segments.reduce<unknown>((inner, segment) => (inner as { readonly [key: string]: unknown } | undefined)?.[segment], value);
}

/** A copy with another value at a place. */
function withValue(value: unknown, [first, ...rest]: readonly string[], put: unknown): unknown {
  if (first === undefined) return put;
  if (Array.isArray(value)) return value.map((entry, at) => (String(at) === first ? withValue(entry, rest, put) : entry));
  const object = (typeof value === 'object' && value !== null ? value : {}) as { readonly [key: string]: unknown };
  return { ...object, [first]: withValue(object[first], rest, put) };
}
