import { notAsked } from '../declared/given-back.ts';
import type { Found, Reads } from '../declared/rule.ts';
import { type ConditionPlan, Unstored } from '../plan/plan.ts';
import { readRoles, spotOf, Unread } from '../run/roles.ts';
import type { Run } from '../run/run.ts';
import type { Case, Guard } from './case.ts';

// Evaluates the conditions that guard a rule. They are three-valued, and one that is unsettled stays so under `not`.

export type ReadsCondition = Extract<ConditionPlan, { op: 'reads' }>;
/** What look-ups found, or why there is nothing. */
export type Finds = { readonly found: Found } | Exclude<Guard, string>;
/** Gives what the look-ups of a condition found. */
export type FindFor = (condition: ReadsCondition, read: Reads) => Finds;

export const NOTHING_FOUND: { readonly found: Found } = { found: Object.freeze({}) };
/** The answer of a condition that has to ask its records first. */
export const WAITING = Object.freeze({ why: 'not-asked' }) satisfies Guard;

/** All conditions of a use together. */
export function guardOf(run: Run, item: Case, find: FindFor): Guard {
  if (item.use.when.length === 0) return 'holds';
  if (run.trace) item.guards = new Map();
  return together(run, item.use.when, 'fails', item, find);
}

function evaluate(run: Run, condition: ConditionPlan, item: Case, find: FindFor): Guard {
  const guard = evaluateOne(run, condition, item, find);
  item.guards?.set(condition, guard);
  return guard;
}

function evaluateOne(run: Run, condition: ConditionPlan, item: Case, find: FindFor): Guard {
  switch (condition.op) {
    case 'occasion':
      return condition.names.includes(run.settings.occasion) ? 'holds' : 'fails';
    case 'calendar': {
      const { today } = run.at;
      return (condition.from ?? today) <= today && today <= (condition.until ?? today) ? 'holds' : 'fails';
    }
    case 'not': {
      const guard = evaluate(run, condition.of, item, find);
      return guard === 'holds' ? 'fails' : guard === 'fails' ? 'holds' : guard;
    }
    case 'all':
      return together(run, condition.of, 'fails', item, find);
    case 'any':
      return together(run, condition.of, 'holds', item, find);
    case 'reads': {
      const read = conditionReads(run, condition, item);
      if (!('read' in read)) return read;
      const finds = condition.lookUps.length === 0 ? NOTHING_FOUND : find(condition, read.read);
      return 'found' in finds ? callCondition(run, condition, read.read, finds.found) : finds;
    }
  }
}

/** The order of the members plays no part: one that settles all does so, wherever it stands. */
function together(run: Run, members: readonly ConditionPlan[], settling: 'holds' | 'fails', item: Case, find: FindFor): Guard {
  const guards = members.map((member) => evaluate(run, member, item, find));
  if (guards.includes(settling)) return settling;
  const open = guards.filter((guard) => typeof guard === 'object');
  // What has to be asked may still settle it.
  if (open.includes(WAITING)) return WAITING;
  return open.find((guard) => 'why' in guard) ?? open[0] ?? (settling === 'fails' ? 'holds' : 'fails');
}

/** What the roles of a condition read, or what skips it. */
function conditionReads(run: Run, condition: ReadsCondition, item: Case): { readonly read: Reads } | Exclude<Guard, string> {
  const read = readRoles(run, condition.roles, item.frames);
  if (!(read instanceof Unread)) return { read };
  if (read.why instanceof Unstored) return { why: read.why.why, cause: read.cause };
  return { skipped: [spotOf(read.role, item.indexes)] };
}

function callCondition(run: Run, { definition, takes }: ReadsCondition, read: Reads, found: Found): Guard {
  try {
    const answer = (definition.run as (...all: unknown[]) => unknown)(read, found, takes, run.at);
    if (answer === true) return 'holds';
    if (answer === false) return 'fails';
    throw notAsked(`Condition "${definition.id}"`, answer, 'true or false');
  } catch (cause) {
    return { why: 'fault', cause };
  }
}
