import type { Found, Reads } from '../rules/definition.ts';
import type { Why } from '../verdict.ts';
import { describe } from './answer.ts';
import type { Case } from './evaluate.ts';
import type { ConditionPlan } from './plan.ts';
import { readRoles, spotOf, Unread } from './roles.ts';
import { pointerOf, type Run } from './run.ts';

// Evaluates the conditions that guard a rule. They are three-valued, and one that is unsettled stays so under `not`.

/** What a condition comes to. */
export type Guard = 'holds' | 'fails' | { readonly skipped: readonly string[] } | { readonly why: Why; readonly cause?: unknown };
export type ReadsCondition = Extract<ConditionPlan, { op: 'reads' }>;
/** What look-ups found, or why there is nothing. */
export type Finds = { readonly found: Found } | Exclude<Guard, string>;
/** Gives what the look-ups of a condition found. */
export type FindFor = (condition: ReadsCondition) => Finds;

export const NOTHING_FOUND: { readonly found: Found } = { found: Object.freeze({}) };
/** The answer of a condition that has to ask its records first. */
export const WAITING: Guard = { why: 'not-asked' };

/** All conditions of a use together: the first that does not hold decides. One that waits does not keep others from deciding. */
export function guardOf(run: Run, item: Case, find: FindFor): Guard {
  let waiting: Guard | undefined;
  for (const condition of item.use.when) {
    const guard = evaluate(run, condition, item, find);
    if (guard === WAITING) waiting = guard;
    else if (guard !== 'holds') return guard;
  }
  return waiting ?? 'holds';
}

function evaluate(run: Run, condition: ConditionPlan, item: Case, find: FindFor): Guard {
  switch (condition.op) {
    case 'occasion':
      return condition.names.includes(run.settings.occasion) ? 'holds' : 'fails';
    case 'not': {
      const guard = evaluate(run, condition.of, item, find);
      return guard === 'holds' ? 'fails' : guard === 'fails' ? 'holds' : guard;
    }
    case 'all':
    case 'any': {
      const settling = condition.op === 'all' ? 'fails' : 'holds';
      const guards = condition.of.map((inner) => evaluate(run, inner, item, find));
      if (guards.includes(settling)) return settling;
      return (
        guards.find((guard) => typeof guard === 'object' && 'why' in guard) ??
        guards.find((guard) => typeof guard === 'object') ??
        (settling === 'fails' ? 'holds' : 'fails')
      );
    }
    case 'reads': {
      const read = conditionReads(condition, item);
      if (!('read' in read)) return read;
      const finds = find(condition);
      return 'found' in finds ? callCondition(run, condition, read.read, finds.found) : finds;
    }
  }
}

/** What the roles of a condition read, or what skips it. */
export function conditionReads(condition: ReadsCondition, item: Case): { readonly read: Reads } | Exclude<Guard, string> {
  const read = readRoles(condition.roles, item.frames);
  if (read instanceof Unread && read.why === 'unstored') return { why: 'stored-unsound', cause: read.cause };
  return read instanceof Unread ? { skipped: [pointerOf(spotOf(read.role, item.indexes))] } : { read };
}

function callCondition(run: Run, { definition, takes }: ReadsCondition, read: Reads, found: Found): Guard {
  try {
    const answer = (definition.run as (...all: unknown[]) => unknown)(read, found, takes, run.at);
    if (answer === true) return 'holds';
    if (answer === false) return 'fails';
    throw new TypeError(`Condition "${definition.id}" gave ${describe(answer)}, and not true or false.`);
  } catch (cause) {
    return { why: 'fault', cause };
  }
}
