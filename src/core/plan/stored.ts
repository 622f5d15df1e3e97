import type { Reads } from '../rules/definition.ts';
import type { Records } from '../stored/records.ts';
import type { Why } from '../verdict.ts';
import { addEngineFinding } from './engine-finding.ts';
import { type Case, callPredicate, eachCase, leaveOpen, type Ready, readyToRun, settle, skip, standAside } from './evaluate.ts';
import { foundBy, type Inquiries, inquire } from './found.ts';
import { conditionReads, type FindFor, type Finds, type Guard, guardOf, NOTHING_FOUND, type ReadsCondition, WAITING } from './guard.ts';
import type { LookUpPlan, UsePlan } from './plan.ts';
import { Questions } from './questions.ts';
import { spotOf } from './roles.ts';
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

/** The record rules of one judgement between its rounds. */
export class RecordRules {
  readonly #run: Run;
  readonly #questions = new Questions();
  readonly #pending: Pending[] = [];
  readonly #itself: Reads | undefined;

  constructor(run: Run, uses: readonly UsePlan[], itself: Reads | undefined) {
    this.#run = run;
    this.#itself = itself;
    for (const use of uses) eachCase(run, use, (item) => this.#prepare(item));
  }

  /** Whether nothing waits for an answer. */
  get isEmpty(): boolean {
    return this.#pending.length === 0;
  }

  #prepare(item: Case): void {
    const read = readyToRun(this.#run, item);
    if (!read) return;
    const ofConditions = new Map<ReadsCondition, Inquiries>();
    // A condition that is settled without records spares the look-ups of what it guards.
    const local = guardOf(this.#run, item, (condition) => {
      if (condition.lookUps.length === 0) return NOTHING_FOUND;
      const reads = conditionReads(condition, item);
      if ('skipped' in reads) return reads;
      ofConditions.set(condition, inquire(condition.lookUps, reads.read, this.#questions, this.#itself));
      return WAITING as Exclude<Guard, string>;
    });
    if (local !== 'holds' && local !== WAITING) return standAside(this.#run, item, local);
    const own = inquire(item.use.lookUps, read, this.#questions, this.#itself);
    this.#pending.push({ item, read, own, ofConditions });
  }

  /** Asks round after round. */
  async ask(records: Records, limit: TimeLimit): Promise<void> {
    while (!this.#questions.isEmpty) {
      await this.#questions.ask(records, limit);
      for (const { own, ofConditions } of this.#pending) {
        for (const inquiry of own.inquiries) inquiry.advance();
        for (const { inquiries } of ofConditions.values()) for (const inquiry of inquiries) inquiry.advance();
      }
    }
  }

  /** Leaves everything open: there are no records to ask. */
  leaveOpen(why: Why): void {
    for (const { item } of this.#pending) leaveOpen(this.#run, item, why);
  }

  /** Runs the predicates on what was found; outside checks are given back, since they come last. */
  settle(): Ready[] {
    const run = this.#run;
    const outside: Ready[] = [];
    const blamed = new Set<string>();
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
      const finds = this.#found(item, own, blamed);
      if ('skipped' in finds) skip(run, item, 'nothing-found', finds.skipped);
      else if ('why' in finds) leaveOpen(run, item, finds.why, finds.cause);
      else if (item.use.phase === 'outside') outside.push({ item, read, found: finds.found });
      else settle(run, item, read, finds.found, callPredicate(item, read, finds.found, run.at));
    }
    return outside;
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
