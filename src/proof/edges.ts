import { addDays, type Day } from '../core/days.ts';
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
    const failed = step.checks
      .filter(({ definition, takes }) => definition.check?.(value as never, takes as never, at) !== true)
      .map(({ use }) => use);
    const fails = isBlank ? [`blank@${step.place.path}`, ...failed] : failed;
    return { field: step.place.path, value: text, holds: fails.length === 0, fails };
  });
}

/** Each bound, and one step to either side of it. */
function valuesFor(step: FieldStep, { definition, takes }: ValueCheck, at: Circumstances): unknown[] {
  const bounds = Object.entries(takes).filter(([name]) => ['min', 'max', 'limit', 'bound'].includes(name));
  return bounds.flatMap(([name, bound]): unknown[] => {
    if (name === 'bound') return step.kind.is.includes('day') ? around(resolveBound(bound as Bound, at) as Day) : [];
    if (typeof bound !== 'number') return [];
    if (definition.countsOnly)
      return [bound - 1, bound, bound + 1]
        .filter((size) => size >= 0)
        .map((size) => (step.op === 'list' ? new Array(size).fill(null) : 'x'.repeat(size)));
    if (step.kind.is.includes('exact') || step.kind.is.includes('upload')) return [];
    const by = step.kind.is.includes('whole') ? 1 : 0.01;
    return [bound - by, bound, bound + by].map((value) => Number(value.toFixed(6)));
  });
}

function around(day: Day): Day[] {
  return [addDays(day, -1), day, addDays(day, 1)];
}

function shown(value: unknown): string {
  if (Array.isArray(value)) return `${value.length} entries`;
  return typeof value === 'string' && value.length > 20 ? `${value.length} characters` : JSON.stringify(value);
}
