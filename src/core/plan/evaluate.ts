import type { Found, Reads } from '../rules/definition.ts';
import type { Circumstances, TraceLine, Why } from '../verdict.ts';
import { describe } from './answer.ts';
import { factsOf } from './facts.ts';
import { type Guard, guardOf, NOTHING_FOUND } from './guard.ts';
import { type Entries, type EntryKey, type Frame, type ListStep, UNSOUND, type UsePlan } from './plan.ts';
import { readRoles, spotOf, Unread } from './roles.ts';
import { pointerOf, type Run, type Spot } from './run.ts';

// Step 5 of a judgement, and what the later steps share with it.

/** One use on one entry (or on the submission as a whole), while it is evaluated. */
export interface Case {
  readonly use: UsePlan;
  /** The submission's frame, then that of each entry around the case. */
  readonly frames: readonly Frame[];
  readonly indexes: readonly EntryKey[];
}

/** A case that is ready for its predicate. */
export interface Ready {
  readonly item: Case;
  readonly read: Reads;
  readonly found: Found;
}

/** Runs the rules between fields. */
export function judgeBetween(run: Run): void {
  const visit = (item: Case): void => {
    const read = readyToRun(run, item);
    if (!read) return;
    const guard = item.use.when.length === 0 ? 'holds' : guardOf(run, item, () => NOTHING_FOUND);
    if (guard !== 'holds') return standAside(run, item, guard);
    settle(run, item, read, NOTHING_FOUND.found, callPredicate(item, read, NOTHING_FOUND.found, run.at));
  };
  for (const use of run.plan.between) eachCase(run, use, visit);
}

const NO_INDEXES: readonly EntryKey[] = [];

/** Calls `visit` for every entry that a use is evaluated on, outermost list first. */
export function eachCase(run: Run, use: UsePlan, visit: (item: Case) => void): void {
  if (use.scope.length === 0) visit({ use, frames: run.rootFrames, indexes: NO_INDEXES });
  else descend(run, use, run.rootFrames, NO_INDEXES, visit);
}

function descend(run: Run, use: UsePlan, frames: readonly Frame[], indexes: readonly EntryKey[], visit: (item: Case) => void): void {
  const list = use.scope[indexes.length];
  if (!list) return visit({ use, frames, indexes });
  const entries = (frames.at(-1) as Frame)[list.slot];
  if (!Array.isArray(entries)) {
    return run.explain(use, stepOf(use), 'skipped', entries === UNSOUND ? 'unsound' : 'absent', [
      pointerOf({ place: list.place, indexes }),
    ]);
  }
  for (let index = 0; index < entries.length; index++)
    descend(run, use, [...frames, entries[index] as Frame], [...indexes, keyAt(entries, index)], visit);
}

/** What a case's roles read, or `undefined` when it is skipped for its occasion, its roles, or what failed before. */
export function readyToRun(run: Run, item: Case): Reads | undefined {
  const { use } = item;
  if (use.on && !use.on.includes(run.settings.occasion)) {
    skip(run, item, 'occasion');
    return undefined;
  }
  if (run.amending && !run.amending.touches(use, item.frames)) {
    skip(run, item, 'unchanged');
    return undefined;
  }
  if (
    run.settings.report !== 'everything' &&
    run.hasErrors &&
    use.blamed.every((role) => run.hasFailedAt(pointerOf(spotOf(role, item.indexes))))
  ) {
    skip(run, item, 'already-failed');
    return undefined;
  }
  const read = readRoles(use.roles, item.frames);
  if (read instanceof Unread) {
    if (read.why === 'unstored') leaveOpen(run, item, 'stored-unsound', read.cause);
    else skip(run, item, read.why, [pointerOf(spotOf(read.role, item.indexes))]);
    return undefined;
  }
  if (use.phase === 'between' || !run.hasErrors) return read;
  const failed = use.roles.map((role) => pointerOf(spotOf(role, item.indexes))).filter((pointer) => run.hasFailedAt(pointer));
  if (failed.length === 0) return read;
  // A value that a rule between fields has refused is not asked about, nor blamed again.
  skip(run, item, 'unsound', failed);
  return undefined;
}

/** A use whose condition does not hold is skipped; one whose condition is unsettled is unsettled. */
export function standAside(run: Run, item: Case, guard: Exclude<Guard, 'holds'>): void {
  if (guard === 'fails') skip(run, item, 'condition');
  else if ('skipped' in guard) skip(run, item, 'condition', guard.skipped);
  else leaveOpen(run, item, guard.why, guard.cause);
}

/** Runs `holds`, `failing` or `asks`; what it throws is handed on as a fault. */
export function callPredicate({ use }: Case, read: Reads, found: Found, at: Circumstances): unknown {
  try {
    return (use.definition.run as (...all: unknown[]) => unknown)(read, found, use.takes, at);
  } catch (cause) {
    return new Thrown(cause);
  }
}

class Thrown {
  constructor(readonly cause: unknown) {}
}

/** Turns a predicate's answer into what it means: held, failed, or a fault of the rule. */
export function settle(run: Run, item: Case, read: Reads, found: Found, answer: unknown): void {
  const { use } = item;
  if (answer instanceof Thrown) return leaveOpen(run, item, 'fault', answer.cause);
  const failing = use.definition.how === 'failing';
  if (failing ? Array.isArray(answer) && answer.length === 0 : answer === true) return run.explain(use, stepOf(use), 'held');
  try {
    if (failing) {
      if (!Array.isArray(answer))
        throw new TypeError(`Rule "${use.rule}" gave ${describe(answer)}, and not the indexes of the entries that fail.`);
      for (const index of answer) report(run, item, read, found, entrySpots(item, index));
    } else {
      if (answer !== false) throw new TypeError(`Rule "${use.rule}" gave ${describe(answer)}, and not true or false.`);
      report(run, item, read, found, spotsOf(item));
    }
    run.explain(use, stepOf(use), 'failed');
  } catch (cause) {
    leaveOpen(run, item, 'fault', cause);
  }
}

function report(run: Run, { use }: Case, read: Reads, found: Found, spots: readonly Spot[]): void {
  const facts = factsOf(use.facts, use.definition, read, found, use.takes, run.at);
  const words = use.definition.words?.(use.takes as never, read as never) ?? {};
  run.fail(use, spots, facts, words, use.facts.labels);
}

export function leaveOpen(run: Run, item: Case, why: Why, cause?: unknown): void {
  run.leaveOpen(item.use, spotsOf(item), why, cause);
  run.explain(item.use, stepOf(item.use), 'unsettled', why);
}

export function skip(run: Run, { use }: Case, why: string, because?: readonly string[]): void {
  run.explain(use, stepOf(use), 'skipped', why, because);
}

function stepOf(use: UsePlan): TraceLine['step'] {
  return use.phase;
}

function spotsOf({ use, indexes }: Case): Spot[] {
  return use.blamed.map((role) => spotOf(role, indexes));
}

/** The places of one failing entry; other blamed roles come after it. */
function entrySpots({ use, frames, indexes }: Case, index: unknown): Spot[] {
  return use.blamed.flatMap((role) => {
    if (!role.entry) return [spotOf(role, indexes)];
    const inner = indexesOfEntry(role.entry.lists, frames[role.depth] as Frame, index);
    if (!inner)
      throw new RangeError(
        `Rule "${use.rule}" gave ${typeof index === 'number' ? index : describe(index)} as the index of an entry that fails.`,
      );
    return role.entry.roles.map(({ place }) => ({ place, indexes: [...indexes, ...inner] }));
  });
}

/** Where the entry with this running number is: its index in each list around it. */
function indexesOfEntry(lists: readonly ListStep[], frame: Frame, index: unknown): EntryKey[] | undefined {
  let left = index as number;
  const walk = (depth: number, inside: Frame, path: readonly EntryKey[]): EntryKey[] | undefined => {
    const list = lists[depth];
    if (!list) return left-- === 0 ? [...path] : undefined;
    const entries = inside[list.slot];
    if (!Array.isArray(entries)) return undefined;
    if (depth === lists.length - 1) {
      if (left < entries.length) return Number.isInteger(left) && left >= 0 ? [...path, keyAt(entries, left)] : undefined;
      left -= entries.length;
      return undefined;
    }
    for (const [at, entry] of entries.entries()) {
      const found = walk(depth + 1, entry as Frame, [...path, keyAt(entries, at)]);
      if (found) return found;
    }
    return undefined;
  };
  return walk(0, frame, []);
}

function keyAt(entries: Entries, index: number): EntryKey {
  return entries.names?.[index] ?? index;
}
