import { notAsked } from '../declared/given-back.ts';
import type { Definition, Found, Reads, RolePaths, Takes } from '../declared/rule.ts';
import { type ReadsCondition, Unstored } from '../plan/plan.ts';
import { type Case, type Guard, NOTHING_FOUND } from '../run/case.ts';
import { readRoles, spotOf, Unread } from '../run/roles.ts';
import type { Run } from '../run/run.ts';
import { type Coming, declared } from './coming.ts';

const sort: Coming<ReadsCondition> = {
  name: 'condition',
  come(condition, _guards, run, item, find) {
    const read = readBy(run, condition, item);
    if (!('read' in read)) return read;
    const finds = condition.lookUps.length === 0 ? NOTHING_FOUND : find(condition, read.read);
    return 'found' in finds ? answerOf(run, condition, read.read, finds.found) : finds;
  },
};

/** Reads fields, and records where it has to, and calls a function. */
export const reading = (definition: Definition, roles: RolePaths, takes: Takes = {}) =>
  declared(({ reads }) => ({ sort, of: [], ...reads(definition, roles, takes) }));

/** What the roles of a condition read, or what skips it. */
function readBy(run: Run, condition: ReadsCondition, item: Case): { readonly read: Reads } | Exclude<Guard, string> {
  const read = readRoles(run, condition.roles, item.frames);
  if (!(read instanceof Unread)) return { read };
  if (read.why instanceof Unstored) return { why: read.why.why, cause: read.cause };
  return { skipped: [spotOf(read.role, item.indexes)] };
}

function answerOf(run: Run, { definition, takes }: ReadsCondition, read: Reads, found: Found): Guard {
  try {
    const answer = (definition.run as (...all: unknown[]) => unknown)(read, found, takes, run.at);
    if (answer === true) return 'holds';
    if (answer === false) return 'fails';
    throw notAsked(`Condition "${definition.id}"`, answer, 'true or false');
  } catch (cause) {
    return { why: 'fault', cause };
  }
}
