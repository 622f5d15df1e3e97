import { CLAIMED, type Found, type Reads } from '../rules/definition.ts';
import type { Records } from '../stored/records.ts';
import type { Why } from '../verdict.ts';
import type { Claims } from './claims.ts';
import { addEngineFinding } from './engine-finding.ts';
import { type Case, callPredicate, eachCase, leaveOpen, type Ready, readyToRun, settle, skip, standAside } from './evaluate.ts';
import { foundBy, type Inquiries, inquire } from './found.ts';
import { conditionReads, type FindFor, type Finds, type Guard, guardOf, NOTHING_FOUND, type ReadsCondition, WAITING } from './guard.ts';
import type { LookUpPlan, RolePlan, UsePlan } from './plan.ts';
import type { Questions } from './questions.ts';
import { readRoles, spotOf, Unread } from './roles.ts';
import { pointerOf, type Run } from './run.ts';
import type { TimeLimit } from './time-limit.ts';

// Step 6 of a judgement: all record rules collect their look-ups, the look-ups are asked together in as few rounds as
// nesting needs, then the predicates run. No rule passes because of an empty answer.

interface Pending {
  readonly item: Case;
  readonly read: Reads;
  readonly own: Inquiries;
  readonly ofConditions: ReadonlyMap<ReadsCondition, Inquiries>;
}

/** Of a use without conditions: most are, and thousands of rows may wait together. */
const UNCONDITIONAL = new Map<ReadsCondition, Inquiries>();

/** What failed, and waits for what its message tells. */
interface ToTell {
  readonly item: Case;
  readonly read: Reads;
  readonly found: Found;
  readonly telling: Inquiries;
}

/** What one judgement shares with others of the same chunk. */
export interface Shared {
  readonly questions: Questions;
  readonly claims: Claims;
  /** The running number of the row, counted from 1; a judgement by itself has none. */
  readonly row?: number;
}

/** The record rules of one judgement between its rounds. */
export class RecordRules {
  readonly #run: Run;
  readonly #shared: Shared;
  #pending: Pending[] = [];
  #toTell: ToTell[] | undefined;
  /** Of a row that asks nothing, since it failed before: what it claims all the same. */
  #onlyClaim: { readonly item: Case; readonly read: Reads }[] | undefined;
  readonly #itself: Reads | undefined;

  constructor(run: Run, uses: readonly UsePlan[], itself: Reads | undefined, shared: Shared) {
    this.#run = run;
    this.#itself = itself;
    this.#shared = shared;
    const isOver = run.settings.report === 'firstOfAll' && run.hasErrors;
    for (const use of uses) eachCase(run, use, (item) => (isOver ? this.#passOver(item) : this.#prepare(item)));
    // Thousands of rows may wait together: a copy takes no more room than it needs.
    this.#pending = this.#pending.slice();
  }

  /** Whether nothing waits to be settled. */
  get isEmpty(): boolean {
    return this.#pending.length === 0 && !this.#onlyClaim;
  }

  #passOver(item: Case): void {
    skip(this.#run, item, 'already-failed');
    const { use, frames } = item;
    if (!use.definition.claims || use.when.length > 0) return;
    const read = readRoles(use.roles, frames);
    if (read instanceof Unread) return;
    this.#onlyClaim ??= [];
    this.#onlyClaim.push({ item, read });
  }

  #prepare(item: Case): void {
    const read = readyToRun(this.#run, item);
    if (!read) return;
    const ofConditions = item.use.when.length === 0 ? UNCONDITIONAL : new Map<ReadsCondition, Inquiries>();
    // A condition that is settled without records spares the look-ups of what it guards.
    const local = guardOf(this.#run, item, (condition) => {
      if (condition.lookUps.length === 0) return NOTHING_FOUND;
      const reads = conditionReads(condition, item);
      if (!('read' in reads)) return reads;
      ofConditions.set(condition, this.#inquire(condition.lookUps, reads.read));
      return WAITING as Exclude<Guard, string>;
    });
    if (local !== 'holds' && local !== WAITING) return standAside(this.#run, item, local);
    this.#pending.push({ item, read, own: this.#inquire(item.use.lookUps, read), ofConditions });
  }

  #inquire(lookUps: readonly LookUpPlan[], read: Reads): Inquiries {
    return inquire(lookUps, read, this.#shared.questions, this.#itself);
  }

  /** Takes the answers of a round; asks what they lead to. */
  advance(): void {
    for (const { own, ofConditions } of this.#pending) {
      for (const inquiry of own.inquiries) inquiry.advance();
      for (const { inquiries } of ofConditions.values()) for (const inquiry of inquiries) inquiry.advance();
    }
    for (const { telling } of this.#toTell ?? []) for (const inquiry of telling.inquiries) inquiry.advance();
  }

  /** Leaves everything open that records would have to settle: there are none to ask. */
  leaveOpen(why: Why): void {
    for (const { item, read } of this.#onlyClaim ?? []) this.#claim(item, read);
    for (const { item, read, ofConditions } of this.#pending) {
      const earlier = ofConditions.size === 0 ? this.#claim(item, read) : undefined;
      if (earlier) settle(this.#run, item, read, { [CLAIMED]: earlier }, false);
      else leaveOpen(this.#run, item, why);
    }
  }

  /** Runs the predicates on what was found; outside checks are given back, since they come last. */
  settle(): Ready[] {
    const run = this.#run;
    const outside: Ready[] = [];
    const blamed = new Set<string>();
    for (const { item, read } of this.#onlyClaim ?? []) this.#claim(item, read);
    for (const { item, read, own, ofConditions } of this.#pending) {
      const find: FindFor = (condition) => {
        const inquiries = ofConditions.get(condition);
        return inquiries ? this.#found(item, inquiries, blamed) : NOTHING_FOUND;
      };
      const guard = guardOf(run, item, find);
      if (guard !== 'holds') {
        standAside(run, item, guard);
        continue;
      }
      // The first of several rows or entries has the value, whatever else becomes of it.
      const earlier = this.#claim(item, read);
      const finds = earlier ? { found: { [CLAIMED]: earlier } } : this.#found(item, own, blamed);
      if ('skipped' in finds) skip(run, item, 'nothing-found', finds.skipped);
      else if ('why' in finds) leaveOpen(run, item, finds.why, finds.cause);
      else if (item.use.phase === 'outside') outside.push({ item, read, found: finds.found });
      else this.#settleOne(item, read, finds.found, earlier ? false : callPredicate(item, read, finds.found, run.at));
    }
    return outside;
  }

  #settleOne(item: Case, read: Reads, found: Found, answer: unknown): void {
    if (answer !== false || item.use.tells.length === 0) return settle(this.#run, item, read, found, answer);
    this.#run.hasErrors ||= item.use.severity === 'error';
    this.#toTell ??= [];
    this.#toTell.push({ item, read, found, telling: this.#inquire(item.use.tells, read) });
  }

  #claim(item: Case, read: Reads) {
    const { definition, blamed } = item.use;
    if (!definition.claims) return undefined;
    const { claims, row } = this.#shared;
    return claims.take(definition, read, { row, spot: spotOf(blamed[0] as RolePlan, item.indexes) });
  }

  /** Reports what failed with what was found for its message; a message can do without. */
  tell(): void {
    for (const { item, read, found, telling } of this.#toTell ?? []) {
      const told = foundBy(telling);
      settle(this.#run, item, read, 'found' in told ? { ...found, ...told.found } : found, false);
    }
    this.#toTell = undefined;
  }

  /** What was found; a `one` that found nothing is a finding of its own, once for each question and place. */
  #found(item: Case, inquiries: Inquiries, blamed: Set<string>): Finds {
    const result = foundBy(inquiries);
    if ('absent' in result)
      return { skipped: inquiries.plans.flatMap(({ blames }) => blames.map((role) => pointerOf(spotOf(role, item.indexes)))) };
    if (!('missing' in result)) return result;
    const skipped: string[] = [];
    for (const index of result.missing) {
      const { spec, blames } = inquiries.plans[index] as LookUpPlan;
      const spots = blames.map((role) => spotOf(role, item.indexes));
      skipped.push(...spots.map(pointerOf));
      const once = JSON.stringify([spec.collection.name, spec.terms, spots.map(pointerOf), item.use.severity]);
      if (blamed.has(once)) continue;
      blamed.add(once);
      addEngineFinding(this.#run, 'known', spots, { severity: item.use.severity });
    }
    return { skipped };
  }
}

/** Asks round after round, for all these judgements together. */
export async function askRounds(all: readonly RecordRules[], questions: Questions, records: Records, limit: TimeLimit): Promise<void> {
  while (!questions.isEmpty) {
    await questions.ask(records, limit);
    for (const rules of all) rules.advance();
  }
}
