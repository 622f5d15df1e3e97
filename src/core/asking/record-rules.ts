import type { Why } from '../basics/verdict.ts';
import { CLAIMED, type Found, type Reads } from '../declared/rule.ts';
import type { Case, Guard, Missing } from '../loop/case.ts';
import { callPredicate, eachCase, leaveOpen, type Ready, readyToRun, settle, skip, standAside } from '../loop/cases.ts';
import { type Finds, guardOf, NOTHING_FOUND, type ReadsCondition, WAITING } from '../loop/guard.ts';
import type { LookUpPlan, RolePlan, UsePlan } from '../plan/plan.ts';
import { unknownCause } from '../run/cause.ts';
import { engineInfo } from '../run/engine-finding.ts';
import { shownPointer } from '../run/places.ts';
import { readRoles, spotOf, Unread } from '../run/roles.ts';
import type { Run } from '../run/run.ts';
import type { Claims } from './claims.ts';
import type { Asker, Inquiries } from './found.ts';
import type { Itself } from './questions.ts';

// Step 6 of a judgement: all record rules collect their look-ups, the look-ups are asked together in as few rounds as
// nesting needs, then the predicates run. No rule passes because of an empty answer.

interface Pending {
  readonly item: Case;
  readonly read: Reads;
  readonly own: Inquiries;
  readonly ofConditions: ReadonlyMap<ReadsCondition, Inquiries>;
  /** It is not judged, but others must not have what it has. */
  readonly onlyClaims: boolean;
}

/** Of a use without conditions: most are, and thousands of rows may wait together. */
const UNCONDITIONAL = new Map<ReadsCondition, Inquiries>();
const NOTHING_ASKED: Inquiries = { plans: [], inquiries: [] };

/** What failed, and waits for what its message tells. */
interface ToTell {
  readonly item: Case;
  readonly read: Reads;
  readonly found: Found;
  readonly telling: Inquiries;
}

/** What one judgement shares with others of the same chunk. */
export interface Shared {
  /** Asks look-ups; none where nobody is asked. */
  readonly asker?: Asker;
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
  #missing: { readonly item: Case; readonly missing: Missing }[] | undefined;
  readonly #itself: Itself | undefined;

  constructor(run: Run, uses: readonly UsePlan[], itself: Reads | undefined, shared: Shared) {
    this.#run = run;
    const { storedIn } = run.plan;
    this.#itself = itself && storedIn && { collection: storedIn, key: itself };
    this.#shared = shared;
    // Of many rows, one that failed still keeps what it claims from later ones; alone, there is nothing left to ask.
    const isOver = run.settings.report === 'firstOfAll' && run.hasErrors;
    for (const use of uses) eachCase(run, use, (item) => this.#prepare(item, isOver));
    // Thousands of rows may wait together: a copy takes no more room than it needs. What does not change claims first,
    // so that what does is blamed.
    const first = this.#pending.filter(({ onlyClaims }) => onlyClaims);
    this.#pending = first.length > 0 ? [...first, ...this.#pending.filter(({ onlyClaims }) => !onlyClaims)] : this.#pending.slice();
  }

  /** Whether nothing waits to be settled. */
  get isEmpty(): boolean {
    return this.#pending.length === 0;
  }

  #prepare(item: Case, isOver: boolean): void {
    const { use, frames } = item;
    const isExcused = this.#run.amending?.isExcused(use, frames) ?? false;
    if (isExcused || isOver) {
      if (!use.definition.claims || (isOver && this.#shared.row === undefined))
        return skip(this.#run, item, isExcused ? 'unchanged' : 'already-failed');
      const read = isExcused ? readRoles(this.#run, use.roles, frames) : readyToRun(this.#run, item);
      if (read && !(read instanceof Unread)) this.#ask(item, read, true);
      return;
    }
    const read = readyToRun(this.#run, item);
    if (read) this.#ask(item, read, false);
  }

  #ask(item: Case, read: Reads, onlyClaims: boolean): void {
    const { use } = item;
    // A condition that is settled without records spares the look-ups of what it guards, and its own.
    const local = use.when.length === 0 ? 'holds' : guardOf(this.#run, item, () => WAITING);
    if (local !== 'holds' && local !== WAITING) {
      if (!onlyClaims) this.#standAside(item, local);
      return;
    }
    const ofConditions = local === WAITING ? new Map<ReadsCondition, Inquiries>() : UNCONDITIONAL;
    if (local === WAITING)
      guardOf(this.#run, item, (condition, asked) => {
        ofConditions.set(condition, this.#inquire(use, condition.lookUps, asked));
        return WAITING;
      });
    const own = onlyClaims ? NOTHING_ASKED : this.#inquire(use, use.lookUps, read);
    this.#pending.push({ item, read, own, ofConditions, onlyClaims });
  }

  #inquire({ isTrial }: UsePlan, lookUps: readonly LookUpPlan[], read: Reads): Inquiries {
    const { asker } = this.#shared;
    return asker ? asker.inquire(lookUps, read, this.#itself, isTrial) : { plans: lookUps, inquiries: [] };
  }

  /** Takes the answers of a round; asks what they lead to. */
  advance(): void {
    const { asker } = this.#shared;
    for (const { own, ofConditions } of this.#pending) {
      asker?.advance(own);
      if (ofConditions.size > 0) for (const inquiries of ofConditions.values()) asker?.advance(inquiries);
    }
    for (const { telling } of this.#toTell ?? []) asker?.advance(telling);
  }

  /** Leaves everything open that records would have to settle: there are none to ask. */
  leaveOpen(why: Why, cause?: unknown): void {
    for (const { item, read, ofConditions, onlyClaims } of this.#pending) {
      const earlier = ofConditions.size === 0 ? this.#claim(item, read) : undefined;
      if (onlyClaims) continue;
      if (earlier) settle(this.#run, item, read, { [CLAIMED]: earlier }, false);
      else leaveOpen(this.#run, item, why, cause);
    }
  }

  /** Runs the predicates on what was found; outside checks are given back, since they come last. */
  settle(): Ready[] {
    const run = this.#run;
    const outside: Ready[] = [];
    for (const { item, read, own, ofConditions, onlyClaims } of this.#pending) {
      const guard = item.use.when.length === 0 ? 'holds' : this.#guard(item, ofConditions);
      if (guard !== 'holds') {
        if (!onlyClaims) this.#standAside(item, guard);
        continue;
      }
      // The first of several rows or entries has the value, whatever else becomes of it.
      const earlier = this.#claim(item, read);
      if (onlyClaims) continue;
      const finds = earlier ? { found: { [CLAIMED]: earlier } } : this.#found(item, own, read);
      if ('skipped' in finds) {
        this.#miss(item, finds.missing);
        skip(run, item, 'nothing-found', finds.skipped.map(shownPointer));
      } else if ('why' in finds) leaveOpen(run, item, finds.why, finds.cause);
      else if (item.use.phase === 'outside') outside.push({ item, read, found: finds.found });
      else this.#settleOne(item, read, finds.found, earlier ? false : callPredicate(item, read, finds.found, run.at));
    }
    for (const { item, missing } of this.#missing ?? []) this.#tellMissing(item, missing);
    this.#missing = undefined;
    return outside;
  }

  #guard(item: Case, ofConditions: Pending['ofConditions']): Guard {
    return guardOf(this.#run, item, (condition, asked) => {
      const inquiries = ofConditions.get(condition);
      return inquiries ? this.#found(item, inquiries, asked) : NOTHING_FOUND;
    });
  }

  #standAside(item: Case, guard: Exclude<Guard, 'holds'>): void {
    if (typeof guard === 'object' && 'skipped' in guard) this.#miss(item, guard.missing);
    standAside(this.#run, item, guard);
  }

  /** Told when all rules have spoken: a rule `known` says it in its own words. */
  #miss(item: Case, missing: readonly Missing[] = []): void {
    if (missing.length === 0) return;
    this.#missing ??= [];
    for (const each of missing) this.#missing.push({ item, missing: each });
  }

  #tellMissing({ use }: Case, { lookUp, read, spots }: Missing): void {
    const { severity, isTrial } = use;
    const [spot] = spots;
    const info = engineInfo(this.#run, 'known', spot?.place.path ?? '', { severity });
    const failure = { info: { ...info, isTrial }, spots, facts: {}, words: {}, labels: { field: spot?.place.label ?? '' } };
    this.#run.addOnce(unknownCause(lookUp.spec, read), failure);
  }

  #settleOne(item: Case, read: Reads, found: Found, answer: unknown): void {
    if (answer !== false || item.use.tells.length === 0) return settle(this.#run, item, read, found, answer);
    this.#run.hasErrors ||= item.use.severity === 'error' && !item.use.isTrial;
    this.#toTell ??= [];
    this.#toTell.push({ item, read, found, telling: this.#inquire(item.use, item.use.tells, read) });
  }

  #claim(item: Case, read: Reads) {
    const { definition, blamed } = item.use;
    if (!definition.claims) return undefined;
    const { claims, row } = this.#shared;
    return claims.take(definition, read, { row, spot: spotOf(blamed[0] as RolePlan, item.indexes) }, item.use.isTrial);
  }

  /** Reports what failed with what was found for its message; a message can do without. */
  tell(): void {
    for (const { item, read, found, telling } of this.#toTell ?? []) {
      const told = this.#asker.found(telling);
      settle(this.#run, item, read, 'found' in told ? { ...found, ...told.found } : found, false);
    }
    this.#toTell = undefined;
  }

  get #asker(): Asker {
    return this.#shared.asker as Asker;
  }

  /** What was found, or the `one` that found nothing. */
  #found(item: Case, inquiries: Inquiries, read: Reads): Finds {
    const result = this.#asker.found(inquiries);
    const spotsOf = ({ blames }: LookUpPlan) => blames.map((role) => spotOf(role, item.indexes));
    if ('absent' in result) return { skipped: inquiries.plans.flatMap(spotsOf) };
    if (!('missing' in result)) return result;
    const missing = result.missing.map((index): Missing => {
      const lookUp = inquiries.plans[index] as LookUpPlan;
      return { lookUp, read, spots: spotsOf(lookUp) };
    });
    const blameless = missing.find(({ spots }) => spots.length === 0);
    if (blameless) {
      const { name } = blameless.lookUp.spec.collection;
      return { why: 'fault', cause: new Error(`${name} has no row for a look-up \`one\` that nothing of the submission takes part in.`) };
    }
    return { skipped: missing.flatMap(({ spots }) => spots), missing };
  }
}
