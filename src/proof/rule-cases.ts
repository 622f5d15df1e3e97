import { fault, nearest } from '../core/basics/fault.ts';
import type { Definition } from '../core/declared/rule.ts';
import { planOf } from '../core/intake.ts';
import { renderOrThrow } from '../core/messages/render.ts';
import type { PlaceSpec } from '../core/plan/plan.ts';
import { circumstancesAt } from '../core/run/clock.ts';
import { factPlan, factsOf } from '../core/run/facts.ts';
import { problemOfSample } from './sample-check.ts';

/** One thing to prove. `run` gives what is wrong, or nothing. */
export interface ProofCase {
  readonly name: string;
  readonly run: () => Promise<string | undefined>;
}

type RuleSample = { readonly [name: string]: unknown };
/** Samples of a rule, as its author writes them. */
export interface Samples {
  readonly holds: readonly RuleSample[];
  readonly fails: readonly RuleSample[];
}

/** A rule as `rule(…)` makes it. */
export interface Provable {
  readonly id: string;
}

export function definitionOf(rule: Provable): Definition {
  return (rule as { definition?: Definition }).definition ?? fault(`"${rule.id}" is no rule made by rule(…).`);
}

/**
 * The rule of an intake by its id, for samples of it beside those that it brings.
 *
 * @throws Fault where the intake has no such rule between fields, against records or outside
 */
export function ruleOf(intake: { readonly name: string }, id: string): Provable {
  const { uses, name } = planOf(intake);
  const found = uses.find(({ rule }) => rule === id);
  if (!found)
    return fault(
      `Intake "${name}" has no rule "${id}"; ${nearest(
        id,
        uses.map(({ rule }) => rule),
      )}`,
    );
  return { id, definition: found.definition } as Provable;
}

export function samplesOf(definition: Definition): Samples | undefined {
  return (definition as { samples?: Samples }).samples;
}

const AT = circumstancesAt(new Date('2031-05-01T10:00:00Z'), 'UTC', 'create');

/** Whether the predicate holds for a sample: its roles, what its look-ups found, and its parameters, each by name. */
async function outcomeOf(definition: Definition, sample: RuleSample): Promise<boolean> {
  const { read, found, takes } = partsOf(definition, sample);
  const answer: unknown = await (definition.run as (...all: unknown[]) => unknown)(read, found, takes, AT);
  if (definition.how === 'failing') {
    if (!Array.isArray(answer) || !answer.every((index) => Number.isInteger(index) && index >= 0))
      fault(`"${definition.id}" gave something other than the indexes of the entries that fail`);
    return answer.length === 0;
  }
  if (typeof answer !== 'boolean') fault(`"${definition.id}" gave something other than true or false`);
  return answer;
}

interface Parts {
  readonly read: { readonly [name: string]: unknown };
  readonly found: { readonly [name: string]: unknown };
  readonly takes: { readonly [name: string]: unknown };
}

function partsOf(definition: Definition, sample: RuleSample): Parts {
  const read: { [name: string]: unknown } = {};
  const found: { [name: string]: unknown } = {};
  const takes: { [name: string]: unknown } = {};
  for (const [name, value] of Object.entries(sample)) {
    const part = name in definition.reads ? read : name in definition.looksUp ? found : takes;
    part[name] = value;
  }
  return { read, found, takes };
}

/** Where a sample fails, its facts and its sentence in every language are told, too. */
function problemOfTelling(definition: Definition, sample: RuleSample): string | undefined {
  const { read, found, takes } = partsOf(definition, sample);
  const roles = Object.keys(definition.reads).map((name) => ({ name, place: { label: name, holdsSecret: false } as PlaceSpec, depth: 0 }));
  const plan = factPlan('proof', definition, roles, [definition.message]);
  const facts = factsOf(plan, definition, read, found, takes, AT);
  const words = definition.words?.(takes, read, []) ?? {};
  const spots = definition.blames.map((label) => ({ place: { label } }));
  const told = { info: { rule: definition.id, messages: [definition.message] }, spots, facts, words, labels: plan.labels };
  const locales = typeof definition.message === 'string' ? ['en'] : Object.keys(definition.message);
  for (const locale of locales) {
    try {
      renderOrThrow(told, locale);
    } catch (cause) {
      return `its message in "${locale}" cannot be told: ${(cause as Error).message}`;
    }
  }
  return undefined;
}

/** The samples of a rule, each as a case. */
export function sampleCases(
  definition: Definition,
  { holds = [], fails = [] }: Partial<Samples> = samplesOf(definition) ?? {},
): ProofCase[] {
  const caseOf = (sample: RuleSample, expected: boolean): ProofCase => ({
    name: `${definition.id} ${expected ? 'holds' : 'fails'} for ${JSON.stringify(sample)}`,
    async run() {
      try {
        const problem = problemOfSample(definition, sample);
        if (problem !== undefined) return problem;
        if ((await outcomeOf(definition, sample)) !== expected)
          return `expected it to ${expected ? 'hold' : 'fail'}, got that it ${expected ? 'fails' : 'holds'}`;
        return expected || definition.isOurs ? undefined : problemOfTelling(definition, sample);
      } catch (cause) {
        return (cause as Error).message;
      }
    },
  });
  return [...holds.map((sample) => caseOf(sample, true)), ...fails.map((sample) => caseOf(sample, false))];
}

/**
 * What the samples of a rule leave open: a side without a sample, a parameter whose edge none touches.
 *
 * @param more besides those that the rule brings
 */
export async function sampleGaps(definition: Definition, more: Partial<Samples> = {}): Promise<string[]> {
  const own = samplesOf(definition);
  const holds = [...(own?.holds ?? []), ...(more.holds ?? [])];
  const fails = [...(own?.fails ?? []), ...(more.fails ?? [])];
  const gaps: string[] = [];
  if ([...holds, ...fails].some((sample) => problemOfSample(definition, sample) !== undefined)) return gaps;
  if (holds.length === 0) gaps.push(`${definition.id} has no sample that holds`);
  if (fails.length === 0) gaps.push(`${definition.id} has no sample that fails`);
  const samples = [...holds, ...fails];
  const parameters = new Set(
    samples.flatMap((sample) => Object.keys(sample).filter((name) => isParameter(definition, name) && typeof sample[name] === 'number')),
  );
  for (const name of parameters) {
    for (const by of [-1, 1]) {
      // An edge is touched when moving it by one changes what becomes of some sample.
      const flips = await Promise.all(samples.map((sample) => isMoved(definition, sample, name, by)));
      if (!flips.includes(true)) gaps.push(`no sample of ${definition.id} tells ${name} from ${name} ${by < 0 ? 'less' : 'plus'} one`);
    }
  }
  return gaps;
}

function isParameter(definition: Definition, name: string): boolean {
  return !(name in definition.reads) && !(name in definition.looksUp);
}

async function isMoved(definition: Definition, sample: RuleSample, name: string, by: number): Promise<boolean> {
  if (typeof sample[name] !== 'number') return false;
  const moved = { ...sample, [name]: (sample[name] as number) + by };
  return (await outcomeOf(definition, sample)) !== (await outcomeOf(definition, moved));
}
