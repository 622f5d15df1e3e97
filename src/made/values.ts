import type { Circumstances } from '../core/basics/verdict.ts';
import { UNREADABLE } from '../core/declared/kind.ts';
import { receivedFile } from '../core/kinds/upload.ts';
import type { FieldStep, ScalarStep, ValueCheck } from '../core/plan/plan.ts';
import { isNeededText } from '../core/run/raw.ts';
import type { Chance } from './chance.ts';
import { textsFor } from './text-for.ts';

/** Raw values for a field with a single value: those that its own rules accept, and others at and beyond its edges. */
export interface Values {
  readonly good: readonly unknown[];
  readonly odd: readonly unknown[];
  /** Texts as they come before they are cleaned: they show whether they are. */
  readonly untidy: readonly string[];
}

const MOST_TRIED = 400;

/** Makes values for a field from what its kind and its rules say of themselves. */
export function valuesFor(step: ScalarStep, at: Circumstances, chance: Chance): Values {
  const { kind, checks } = step;
  const today = todayOf(at);
  const rules = checks.filter(({ severity, isTrial }) => severity === 'error' && !isTrial);
  const made = rules.flatMap((check) => madeFor(step, check, at, chance));
  const all = [...(kind.examples?.(today) ?? []), ...made];
  if (kind.isText) {
    all.push(...lengthened(all, rules, at), '', ' ', 'x'.repeat(40));
  }
  const distinct = [...new Map(all.map((value) => [typeof value === 'object' ? JSON.stringify(value) : value, value])).values()];
  const good: unknown[] = [];
  const odd: unknown[] = [];
  for (const value of distinct.slice(0, MOST_TRIED)) (isAccepted(step, rules, value, at) ? good : odd).push(value);
  return { good: good.sort((a, b) => plainness(a) - plainness(b)), odd, untidy: kind.isText ? untidy(distinct) : [] };
}

/** A day for kinds that count from one, also where the intake has no time zone. */
function todayOf(at: Circumstances): string {
  try {
    return at.today;
  } catch {
    return at.now.toISOString().slice(0, 10);
  }
}

/** Values as people write them come first: no edges, nothing very long. */
function plainness(value: unknown): number {
  if (typeof value !== 'string') return 0;
  return value.length > 30 ? 2 : value.trim() === '' || /^x+$/.test(value) ? 1 : 0;
}

function madeFor(step: FieldStep, { definition, takes }: ValueCheck, at: Circumstances, chance: Chance): unknown[] {
  const examples = tried(() => definition.examples?.(takes, at)) ?? [];
  const expression = definition.matches?.(takes);
  const { bounds = [], sizes = [] } = tried(() => definition.edges?.(takes, at)) ?? {};
  const around = sizes.flatMap((size) => [size, size - 1, size + 1]).filter((size) => size >= 0 && size <= 100_000);
  return [
    ...examples,
    ...(expression ? textsFor(expression, chance) : []),
    ...bounds.flatMap((bound) => {
      const [before, same, after] = step.kind.around?.(bound) ?? [];
      return [same, after, before].filter((value) => value !== undefined);
    }),
    ...around.map((size) => ofSize(step, size)),
  ];
}

/** A value of so many characters or bytes. */
export function ofSize(step: FieldStep, size: number): unknown {
  if (step.kind.isObject) return receivedFile({ name: 'file.bin', mediaType: 'application/octet-stream', size });
  return 'x'.repeat(size);
}

/** Texts that other rules accept, brought to the lengths at which a rule turns. */
function lengthened(values: readonly unknown[], rules: readonly ValueCheck[], at: Circumstances): string[] {
  const sizes = rules
    .flatMap(({ definition, takes }) => tried(() => definition.edges?.(takes, at))?.sizes ?? [])
    .flatMap((size) => [size, size + 1, size - 1]);
  const texts = values.filter((value): value is string => typeof value === 'string' && value.trim() !== '').slice(0, 8);
  return texts.flatMap((text) =>
    sizes.filter((size) => size > 0 && size <= 10_000).map((size) => text.repeat(Math.ceil(size / text.length)).slice(0, size)),
  );
}

function untidy(values: readonly unknown[]): string[] {
  const texts = values.filter((value): value is string => typeof value === 'string' && value.trim() !== '');
  // Of each length one, the longest first: a limit shows at its edge.
  const long = [...new Map(texts.map((text) => [text.length, text])).values()].sort((a, b) => b.length - a.length);
  const few = [...texts.slice(0, 4), ...long.slice(0, 4)];
  return few.flatMap((text) => [` ${text} `, `${text.slice(0, 1)}  ${text.slice(1)}`, text.toUpperCase(), text.toLowerCase()]);
}

function isAccepted(step: ScalarStep, rules: readonly ValueCheck[], raw: unknown, at: Circumstances): boolean {
  return (
    tried(() => {
      let value: unknown = step.kind.json(raw);
      if (value === UNREADABLE) return false;
      for (const { apply } of step.cleans) value = apply(value);
      if (isNeededText(step) && String(value).trim() === '') return false;
      return rules.every(({ definition, takes }) => definition.check?.(value, takes, at) === true);
    }) === true
  );
}

/** What a rule of the application's gives, unless it throws. */
function tried<T>(run: () => T): T | undefined {
  try {
    return run();
  } catch {
    return undefined;
  }
}
