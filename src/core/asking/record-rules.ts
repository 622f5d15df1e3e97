import type { Why } from '../basics/verdict.ts';
import { CLAIMED, type Claimant, type Found, type Reads } from '../declared/rule.ts';
import { callPredicate, eachCase, leaveOpen, NO_INDEXES, type Ready, readyToRun, settle, skip, standAside } from '../loop/cases.ts';
import { guardOf } from '../loop/guard.ts';
import type { LookUpPlan, ReadsCondition, UsePlan } from '../plan/plan.ts';
import { type Case, type Finds, type Guard, type Missing, NOTHING_FOUND, WAITING } from '../run/case.ts';
import { unknownCause } from '../run/cause.ts';
import { engineInfo } from '../run/engine-finding.ts';
import { shownPointer } from '../run/places.ts';
import { spotOf } from '../run/roles.ts';
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
}

/** A case that is not judged, though others must not have what it has; it was stored before all that is judged, or comes in its turn. */
interface OnlyThere {
  readonly item: Case;
  readonly isStored: boolean;
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
  #pending: (Pending | OnlyThere)[] = [];
  #toTell: ToTell[] | undefined;
  #missing: { readonly item: Case; readonly missing: Missing }[] | undefined;
  readonly #itself: Itself | undefined;
  /** The same as a text, which tells records apart. */
  readonly #renewed: string | undefined;

  /** @param isOnlyThere nothing of it is judged: what it claims counts for others */
  constructor(run: Run, uses: readonly UsePlan[], itself: Reads | undefined, shared: Shared, isOnlyThere = false) {
    this.#run = run;
    const { storedIn } = run.plan;
    this.#itself = itself && storedIn && { collection: storedIn, key: itself };
    this.#renewed = itself && storedIn && JSON.stringify(storedIn.key.map((column) => itself[column]));
    this.#shared = shared;
    // Of many rows, one that failed still keeps what it claims from later ones; alone, there is nothing left to ask.
    const isOver = isOnlyThere || (run.settings.report === 'firstOfAll' && run.hasErrors);
    for (const use of uses) eachCase(run, use, (item) => this.#prepare(item, isOver));
    // Thousands of rows may wait together: a copy takes no more room than it needs. What does not change claims first,
    // so that what does is blamed.
    const isFirst = (each: Pending | OnlyThere) => 'isStored' in each && each.isStored;
    const first = this.#pending.filter(isFirst);
    this.#pending = first.length > 0 ? [...first, ...this.#pending.filter((each) => !isFirst(each))] : this.#pending.slice();
  }

  /** Whether nothing waits to be settled. */
  get isEmpty(): boolean {
    return this.#pending.length === 0 && !this.#claimsValue;
  }

  /** Of many rows the accepted value is there for others, too. */
  get #claimsValue(): boolean {
    return this.#shared.row !== undefined && this.#shared.claims.hasValue;
  }

  #prepare(item: Case, isOver: boolean): void {
    const { use, frames } = item;
    const isExcused = this.#run.amending?.isExcused(use, frames) ?? false;
    if (isExcused || isOver) {
      skip(this.#run, item, isExcused ? 'unchanged' : 'already-failed');
      return this.#beThere(item, isExcused);
    }
    const read = readyToRun(this.#run, item);
    if (read) this.#ask(item, read);
    else this.#beThere(item, false);
  }

  /** What is not judged is there for others all the same, once it is stored. */
  #beThere(item: Case, isStored: boolean): void {
    if (item.use.definition.claims) this.#pending.push({ item, isStored });
  }

  #ask(item: Case, read: Reads): void {
    const { use } = item;
    // A condition that is settled without records spares the look-ups of what it guards, and its own.
    const local = use.when.length === 0 ? 'holds' : guardOf(this.#run, item, () => WAITING);
    if (local !== 'holds' && local !== WAITING) {
      this.#standAside(item, local);
      return this.#beThere(item, false);
    }
    const ofConditions = local === WAITING ? new Map<ReadsCondition, Inquiries>() : UNCONDITIONAL;
    if (local === WAITING)
      guardOf(this.#run, item, (condition, asked) => {
        ofConditions.set(condition, this.#inquire(use, condition.lookUps, asked));
        return WAITING;
      });
    this.#pending.push({ item, read, own: this.#inquire(use, use.lookUps, read), ofConditions });
  }

  #inquire({ isTrial }: UsePlan, lookUps: readonly LookUpPlan[], read: Reads): Inquiries {
    const { asker } = this.#shared;
    return asker ? asker.inquire(lookUps, read, this.#itself, isTrial, this.#run.at) : { plans: lookUps, inquiries: [] };
  }

  /** Takes the answers of a round; asks what they lead to. */
  advance(): void {
    const { asker } = this.#shared;
    for (const each of this.#pending) {
      if ('isStored' in each) continue;
      const { own, ofConditions } = each;
      asker?.advance(own);
      if (ofConditions.size > 0) for (const inquiries of ofConditions.values()) asker?.advance(inquiries);
    }
    for (const { telling } of this.#toTell ?? []) asker?.advance(telling);
  }

  /** Leaves everything open that records would have to settle: there are none to ask. */
  leaveOpen(why: Why, cause?: unknown): void {
    for (const each of this.#pending) {
      const { item } = each;
      const earlier = this.#claim(item, false);
      if ('isStored' in each) continue;
      // Whether it would have been asked, its conditions do not tell.
      if (earlier && each.ofConditions.size === 0) this.#settleClaimed(item, each.read, earlier);
      else leaveOpen(this.#run, item, why, cause);
    }
    this.#claimValue();
  }

  /** Runs the predicates on what was found; outside checks are given back, since they come last. */
  settle(): Ready[] {
    const run = this.#run;
    const outside: Ready[] = [];
    for (const each of this.#pending) {
      const { item } = each;
      const guard = 'isStored' in each ? 'fails' : item.use.when.length === 0 ? 'holds' : this.#guard(item, each.ofConditions);
      // The first of several rows or entries has the value, whatever else becomes of it.
      const earlier = this.#claim(item, guard === 'holds');
      if ('isStored' in each) continue;
      const { read, own } = each;
      if (guard !== 'holds') {
        this.#standAside(item, guard);
        continue;
      }
      const finds = this.#found(item, own, read);
      const answer = 'found' in finds && item.use.phase !== 'outside' ? callPredicate(item, read, finds.found, run.at) : undefined;
      // What is stored already is blamed on the store, and not on another row.
      if (earlier && !(answer === false && earlier.row !== undefined)) this.#settleClaimed(item, read, earlier);
      else if ('skipped' in finds) {
        this.#miss(item, finds.missing);
        skip(run, item, 'nothing-found', finds.skipped.map(shownPointer));
      } else if ('why' in finds) leaveOpen(run, item, finds.why, finds.cause);
      else if (item.use.phase === 'outside') outside.push({ item, read, found: finds.found });
      else this.#settleOne(item, read, finds.found, answer);
    }
    this.#claimValue();
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

  #claimValue(): void {
    const { claims, row } = this.#shared;
    if (this.#claimsValue) claims.takeValue({ frames: this.#run.rootFrames, indexes: NO_INDEXES, row, itself: this.#renewed });
  }

  #claim({ use, frames, indexes }: Case, isAsked: boolean): Claimant | undefined {
    if (!use.definition.claims) return undefined;
    const { claims, row } = this.#shared;
    const isRefused = isAsked && use.severity === 'error' && !use.isTrial;
    return claims.take({ use, frames, indexes, row, itself: this.#renewed, isRefused });
  }

  /** Another row or entry has the same. Of a row it has to be known first what became of it. */
  #settleClaimed(item: Case, read: Reads, earlier: Claimant): void {
    const run = this.#run;
    const { row } = earlier;
    if (row === undefined) return settle(run, item, read, { [CLAIMED]: earlier }, false);
    run.hasErrors ||= item.use.severity === 'error' && !item.use.isTrial;
    run.behind ??= [];
    run.behind.push({
      row,
      settle(outcome) {
        if (outcome === 'undecided')
          leaveOpen(run, item, 'row-undecided', new Error(`Row ${row}, which has the same or may have it, is not decided itself.`));
        else settle(run, item, read, { [CLAIMED]: { row, isRefused: outcome === 'rejected' } }, false);
      },
    });
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
