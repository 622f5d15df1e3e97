import type { Circumstances } from '../core/basics/verdict.ts';
import { receivedFile } from '../core/kinds/upload.ts';
import type { FieldStep, ListStep, Plan, ValueCheck } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { isNeededText } from '../core/run/raw.ts';

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
  if (step.kind.isText && values.size > 0) for (const blank of ['', ' ']) values.set(shown(blank), blank);
  return [...values].map(([text, value]) => {
    const isBlank = isNeededText(step) && String(value).trim() === '';
    const failed = step.checks.filter((check) => fails(check, value, at)).map(({ use }) => use);
    const all = isBlank ? [`blank@${step.place.path}`, ...failed] : failed;
    return { field: step.place.path, value: text, holds: all.length === 0, fails: all };
  });
}

function fails({ definition, takes }: ValueCheck, value: unknown, at: Circumstances): boolean {
  try {
    return definition.check?.(value, takes, at) !== true;
  } catch {
    // Entries that only stand for their number are nothing that a rule about their content can look at.
    return false;
  }
}

/** Each bound, and one step to either side of it. */
function valuesFor(step: FieldStep, { definition, takes }: ValueCheck, at: Circumstances): readonly unknown[] {
  const { bounds = [], sizes = [] } = definition.edges?.(takes, at) ?? {};
  const around = sizes.flatMap((size) => [size - 1, size, size + 1]).filter((size) => size >= 0);
  return [...bounds.flatMap((bound) => step.kind.around?.(bound) ?? []), ...around.map((size) => ofSize(step, size))];
}

function ofSize(step: FieldStep, size: number): unknown {
  if (step.kind.isObject) return receivedFile({ name: 'edge.bin', mediaType: 'application/octet-stream', size });
  if (!step.sort.none) return 'x'.repeat(size);
  const entry = (step as ListStep).item.sort.isSentInParts ? {} : null;
  return Array.from({ length: size }, () => entry);
}

function shown(value: unknown): string {
  if (Array.isArray(value)) return `${value.length} entries`;
  if (typeof value === 'object' && value !== null) return `${(value as { readonly size: number }).size} bytes`;
  return typeof value === 'string' && value.length > 30 ? `${value.length} characters` : JSON.stringify(value);
}
