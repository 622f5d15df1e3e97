import type { Circumstances, TraceLine, Why } from '../basics/verdict.ts';
import { notAsked, Thrown } from '../declared/given-back.ts';
import type { Found, Reads } from '../declared/rule.ts';
import { type EntryKey, type Frame, UNSOUND, Unstored, type UsePlan } from '../plan/plan.ts';
import { type Case, type Guard, NOTHING_FOUND } from '../run/case.ts';
import { causeOf, isSole } from '../run/cause.ts';
import { keyAt, placedBelow } from '../run/entries.ts';
import { factsOf } from '../run/facts.ts';
import type { Failure, Spot } from '../run/failures.ts';
import { keepFailure, keptFailure } from '../run/kept.ts';
import { pointerOf, shownPointer } from '../run/places.ts';
import { readEntry, readRoles, spotOf, Unread } from '../run/roles.ts';
import type { Run } from '../run/run.ts';
import { guardOf } from './guard.ts';
import { tracedOf } from './traced.ts';

// Step 5 of a judgement, and what the later steps share with it.

/** A case that is ready for its predicate. */
export interface Ready {
  readonly item: Case;
  readonly read: Reads;
  readonly found: Found;
}

/** Runs the rules between fields. */
export function judgeBetween(run: Run): void {
  if (run.code) return run.code.between(run, run.frame);
  const { between } = run.plan;
  for (let at = 0; at < between.length; at++) judgeUse(run, between[at] as UsePlan);
}

/** One of them, on every entry that it is evaluated on. */
export function judgeUse(run: Run, use: UsePlan): void {
  if (use.scope.length === 0) judgeCase(run, { use, frames: run.rootFrames, indexes: NO_INDEXES });
  else eachCase(run, use, (item) => judgeCase(run, item));
}

function judgeCase(run: Run, item: Case): void {
  const read = readyToRun(run, item);
  if (!read) return;
  const guard = item.use.when.length === 0 ? 'holds' : guardOf(run, item, () => NOTHING_FOUND);
  if (guard !== 'holds') return standAside(run, item, guard);
  settle(run, item, read, NOTHING_FOUND.found, callPredicate(item, read, NOTHING_FOUND.found, run.at));
}

export const NO_INDEXES: readonly EntryKey[] = [];

/** Calls `visit` for every entry that a use is evaluated on, outermost list first. */
export function eachCase(run: Run, use: UsePlan, visit: (item: Case) => void): void {
  if (use.scope.length === 0) visit({ use, frames: run.rootFrames, indexes: NO_INDEXES });
  else descend(run, use, run.rootFrames, NO_INDEXES, visit);
}

function descend(run: Run, use: UsePlan, frames: readonly Frame[], indexes: readonly EntryKey[], visit: (item: Case) => void): void {
  const list = use.scope[indexes.length];
  if (!list) return visit({ use, frames, indexes });
  const entries = (frames.at(-1) as Frame)[list.slot];
  if (entries instanceof Unstored && !run.amending?.isExcused(use, frames)) {
    const cause = entries.cause ?? new Error(`The stored record was given without "${list.place.path}", which a rule reads.`);
    run.leaveOpen(use, [{ place: list.place, indexes }], entries.why, cause);
    return run.explain(use, stepOf(use), 'unsettled', entries.why);
  }
  if (!Array.isArray(entries)) {
    return run.explain(use, stepOf(use), 'skipped', entries === UNSOUND ? 'unsound' : 'absent', [
      shownPointer({ place: list.place, indexes }),
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
  if (run.amending?.isExcused(use, item.frames)) {
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
  if (isHomeless(item)) {
    skip(run, item, 'absent', spotsOf(item).map(shownPointer));
    return undefined;
  }
  const read = readRoles(run, use.roles, item.frames);
  if (read instanceof Unread) {
    if (read.why instanceof Unstored) leaveOpen(run, item, read.why.why, read.cause);
    else skip(run, item, read.why, [shownPointer(spotOf(read.role, item.indexes))]);
    return undefined;
  }
  if (run.trace) explainLeftOut(run, item);
  if (use.phase === 'between' || !run.hasErrors) return read;
  const failed = use.roles.map((role) => spotOf(role, item.indexes)).filter((spot) => run.hasFailedAt(pointerOf(spot)));
  if (failed.length === 0) return read;
  // A value that a rule between fields has refused is not asked about, nor blamed again.
  skip(run, item, 'unsound', failed.map(shownPointer));
  return undefined;
}

/** Whether all that a case reads would stand in groups or shapes that are not there: nothing is missing, then. */
function isHomeless({ use, frames }: Case): boolean {
  return use.roles.every(({ holders, depth }) => {
    const frame = frames[depth] as Frame;
    return holders.some(
      ({ step: { slot }, shape }) => frame[slot] === undefined || (shape !== undefined && isOtherShape(frame[slot], shape)),
    );
  });
}

function isOtherShape(held: unknown, shape: string): boolean {
  return typeof held === 'string' && held !== shape;
}

/** An entry without a value that a role needs is left out of the rule, and the trace says so. */
function explainLeftOut(run: Run, { use, frames, indexes }: Case): void {
  for (const { entry, depth } of use.roles) {
    if (!entry) continue;
    const lacking = placedBelow(entry.lists, frames[depth] as Frame).filter(({ frame }) => readEntry(entry.roles, frame) === undefined);
    const [role] = entry.roles;
    if (lacking.length === 0 || !role) continue;
    const pointers = lacking
      .slice(0, MOST_EXPLAINED)
      .map(({ keys }) => shownPointer({ place: role.place, indexes: [...indexes.slice(0, depth), ...keys] }));
    run.explain(use, stepOf(use), 'skipped', 'entries-left-out', pointers);
  }
}

/** Entries that a line of the trace names. */
const MOST_EXPLAINED = 20;

/** A use whose condition does not hold is skipped; one whose condition is unsettled is unsettled. */
export function standAside(run: Run, item: Case, guard: Exclude<Guard, 'holds'>): void {
  if (guard === 'fails') skip(run, item, 'condition');
  else if ('skipped' in guard) skip(run, item, 'condition', guard.skipped.map(shownPointer));
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

/** Turns a predicate's answer into what it means: held, failed, or a fault of the rule. */
export function settle(run: Run, item: Case, read: Reads, found: Found, answer: unknown): void {
  const { use } = item;
  if (answer instanceof Thrown) return leaveOpen(run, item, 'fault', answer.cause);
  const failing = use.definition.how === 'failing';
  if (failing ? Array.isArray(answer) && answer.length === 0 : answer === true) return explainCase(run, item, 'held', read, found);
  try {
    if (failing) {
      if (!Array.isArray(answer)) throw notAsked(`Rule "${use.rule}"`, answer, 'the indexes of the entries that fail');
      for (const index of new Set(answer)) run.addOnce(causeOf(use, read), failureOf(run, use, read, found, entrySpots(item, index)));
    } else {
      if (answer !== false) throw notAsked(`Rule "${use.rule}"`, answer, 'true or false');
      reportUse(run, item, read, found);
    }
    explainCase(run, item, 'failed', read, found);
  } catch (cause) {
    leaveOpen(run, item, 'fault', cause);
  }
}

function reportUse(run: Run, item: Case, read: Reads, found: Found): void {
  const { use } = item;
  let failure = keptFailure(use);
  if (!failure) {
    failure = failureOf(run, use, read, found, spotsOf(item));
    if (use.facts.isFixed && use.scope.length === 0) failure = keepFailure(use, failure);
  }
  if (isSole(run.plan, use)) run.add(failure);
  else run.addOnce(causeOf(use, read), failure);
}

function failureOf(run: Run, use: UsePlan, read: Reads, found: Found, spots: readonly Spot[]): Failure {
  const facts = factsOf(use.facts, use.definition, read, found, use.takes, run.at);
  const words = use.definition.words?.(use.takes, read, run.plan.catalogues) ?? {};
  return { info: use, spots, facts, words, labels: use.facts.labels };
}

export function leaveOpen(run: Run, item: Case, why: Why, cause?: unknown): void {
  run.leaveOpen(item.use, spotsOf(item), why, cause);
  if (run.trace) run.explain(item.use, stepOf(item.use), 'unsettled', why, undefined, () => tracedOf(item));
}

export function skip(run: Run, item: Case, why: string, because?: readonly string[]): void {
  if (run.trace) run.explain(item.use, stepOf(item.use), 'skipped', why, because, () => tracedOf(item));
}

function explainCase(run: Run, item: Case, outcome: 'held' | 'failed', read: Reads, found: Found): void {
  if (run.trace || item.use.isTrial)
    run.explain(item.use, stepOf(item.use), outcome, undefined, undefined, () => ({ ...tracedOf(item), seen: { read, found } }));
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
    const { lists, roles } = role.entry;
    // Indexes count the entries that the rule was given, without those that lack what it needs.
    const given = placedBelow(lists, frames[role.depth] as Frame).filter(({ frame }) => readEntry(roles, frame) !== undefined);
    const entry = Number.isInteger(index) ? given[index as number] : undefined;
    if (!entry)
      throw typeof index === 'number'
        ? new RangeError(`Rule "${use.rule}" gave ${index} as the index of an entry that fails.`)
        : notAsked(`Rule "${use.rule}"`, index, 'the index of an entry that fails');
    return roles.map(({ place }) => ({ place, indexes: [...indexes.slice(0, role.depth), ...entry.keys] }));
  });
}
