import { addDays, type Day } from '../core/days.ts';
import { digitsOf, sumOfProducts } from '../core/exact.ts';
import { receivedFile } from '../core/kinds/upload.ts';
import { canonicalMoment } from '../core/moments.ts';
import type { FieldStep, Plan, ValueCheck } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import type { Bound } from '../core/rules/relative.ts';
import { resolveBound } from '../core/rules/relative.ts';
import type { Circumstances } from '../core/verdict.ts';

/** A value at the edge of a declared bound, and what became of it. */
export interface Edge {
  readonly field: string;
  /** The value; long texts and lists by their length. */
  readonly value: string;
  readonly holds: boolean;
  /** The uses that it fails. */
  readonly fails: readonly string[];
}

/** Makes values at the edges of the bounds that the fields declare, and judges each by the rules of its field. */
export function edgesOf(plan: Plan, at: Circumstances): Edge[] {
  const edges: Edge[] = [];
  for (const part of [plan.fields, plan.given]) walkSteps(part, (step) => edges.push(...edgesOfStep(step, at)));
  return edges;
}

function edgesOfStep(step: FieldStep, at: Circumstances): Edge[] {
  const values = new Map(step.checks.flatMap((check) => valuesFor(step, check, at)).map((value) => [shown(value), value]));
  if (step.op === 'scalar' && step.isText && values.size > 0) for (const blank of ['', ' ']) values.set(shown(blank), blank);
  return [...values].map(([text, value]) => {
    const isBlank = step.op === 'scalar' && step.isText && step.needed && !step.blankAllowed && String(value).trim() === '';
    const failed = step.checks.filter((check) => fails(check, value, at)).map(({ use }) => use);
    const all = isBlank ? [`blank@${step.place.path}`, ...failed] : failed;
    return { field: step.place.path, value: text, holds: all.length === 0, fails: all };
  });
}

function fails({ definition, takes }: ValueCheck, value: unknown, at: Circumstances): boolean {
  try {
    return definition.check?.(value as never, takes as never, at) !== true;
  } catch {
    // Entries that only stand for their number are nothing that a rule about their content can look at.
    return false;
  }
}

/** Each bound, and one step to either side of it. */
function valuesFor(step: FieldStep, { definition, takes }: ValueCheck, at: Circumstances): unknown[] {
  const bounds = Object.entries(takes).filter(([name]) => ['min', 'max', 'limit', 'bound', 'least', 'most'].includes(name));
  return bounds.flatMap(([name, bound]): unknown[] => {
    if (name === 'bound') return aroundBound(step, resolveBound(bound as Bound, at));
    if (definition.countsOnly && typeof bound === 'number')
      return [bound - 1, bound, bound + 1].filter((size) => size >= 0).map((size) => ofSize(step, size));
    if (step.kind.is.includes('upload') && typeof bound === 'number')
      return [bound - 1, bound, bound + 1]
        .filter((size) => size >= 0)
        .map((size) => receivedFile({ name: 'edge.bin', mediaType: MEDIA_TYPE, size }));
    if (!(typeof bound === 'number' || typeof bound === 'string') || !step.kind.is.some((kind) => NUMBERS.includes(kind))) return [];
    return aroundNumber(step, bound);
  });
}

const MEDIA_TYPE = 'application/octet-stream';
const NUMBERS = ['whole', 'decimal', 'exact'];

function ofSize(step: FieldStep, size: number): unknown {
  if (step.op !== 'list') return 'x'.repeat(size);
  const entry = step.item.op === 'group' || step.item.op === 'shapes' ? {} : null;
  return Array.from({ length: size }, () => entry);
}

/** One step to either side: one, or a hundredth (as far as the limit has decimals, its last place). */
function aroundNumber({ kind }: FieldStep, limit: number | string): unknown[] {
  if (kind.is.includes('whole')) return [-1, 0, 1].map((by) => Number(limit) + by);
  const places = Math.max(2, digitsOf(limit).places);
  const step = `0.${'1'.padStart(places, '0')}`;
  const values = [`-${step}`, '0', step].map((by) => sumOfProducts([[limit], [by]]));
  return kind.is.includes('exact') ? values.map((value) => kind.json(value)) : values.map(Number);
}

function aroundBound({ kind }: FieldStep, bound: string): string[] {
  if (kind.is.includes('day')) return [addDays(bound as Day, -1), bound, addDays(bound as Day, 1)];
  if (kind.is.includes('moment')) return [-1, 0, 1].map((by) => canonicalMoment(new Date(Date.parse(bound) + by)));
  return [-1, 0, 1].flatMap((by) => minuteFrom(bound, by) ?? []);
}

/** The time of day a minute before or after, unless that is another day. */
function minuteFrom(time: string, minutes: number): string | undefined {
  const [hour = '0', minute = '0'] = time.split(':');
  const all = Number(hour) * 60 + Number(minute) + minutes;
  const two = (part: number) => String(part).padStart(2, '0');
  return all < 0 || all >= 1440 ? undefined : minutes === 0 ? time : `${two(Math.floor(all / 60))}:${two(all % 60)}${time.slice(5)}`;
}

function shown(value: unknown): string {
  if (Array.isArray(value)) return `${value.length} entries`;
  if (typeof value === 'object' && value !== null) return `${(value as { readonly size: number }).size} bytes`;
  return typeof value === 'string' && value.length > 30 ? `${value.length} characters` : JSON.stringify(value);
}
