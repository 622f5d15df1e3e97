import type { Verdict } from '../core/basics/verdict.ts';
import { planOf } from '../core/intake.ts';
import { judge } from '../core/judging/judge.ts';
import type { Plan } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { circumstancesAt } from '../core/run/clock.ts';
import { Chance } from './chance.ts';
import { Material } from './material.ts';
import { type Move, movesFor } from './moves.ts';
import { copyOf, recordsOf, type Situation } from './situation.ts';

/** A situation that was judged. */
export interface MadeExample {
  readonly situation: Situation;
  readonly verdict: Verdict<unknown>;
}

export interface MakerOptions {
  /** The moment that counts as now. Defaults to the clock. */
  readonly now?: Date;
  readonly occasion?: string;
  readonly locale?: string;
  /** Other numbers make other examples. Defaults to 1. */
  readonly seed?: number;
}

/** Steps of a search, and moves looked at in each. */
const MOST_STEPS = 40;
const MOST_MOVES = 160;

/**
 * Makes submissions for an intake, with what is given and what a store would answer, and judges each: nothing is shown that was not. Checks
 * outside are never asked.
 */
export class Maker extends Material {
  readonly #now: Date;
  readonly #occasion: string;
  readonly #locale: string | undefined;
  #accepted: Promise<MadeExample | undefined> | undefined;

  constructor(intake: { readonly name: string }, { now = new Date(), occasion, locale, seed = 1 }: MakerOptions = {}) {
    const plan = planOf(intake);
    const named = occasion ?? plan.occasions[0] ?? '';
    super(
      // A plan of its own: without what is asked outside, and without code, since each is judged a few times only.
      {
        ...plan,
        outside: [],
        record: plan.record.filter(({ phase }) => phase === 'record'),
        busy: { when: 'never', count: 0, code: undefined },
      },
      circumstancesAt(now, plan.zone ?? 'UTC', named),
      new Chance(seed),
    );
    this.#now = now;
    this.#occasion = named;
    this.#locale = locale;
  }

  /** A submission that is accepted; `undefined` where none was found. */
  accepted(): Promise<MadeExample | undefined> {
    this.#accepted ??= this.#search();
    return this.#accepted;
  }

  /** A submission that this use rejects, and as few others as can be; `undefined` where none was found. */
  async rejectedBy(use: string): Promise<MadeExample | undefined> {
    const start = await this.accepted();
    if (!start) return undefined;
    const moves = movesFor(this, use, start.situation, 'break');
    const one = await this.#best(start.situation, moves, use);
    if (one && findingsOf(one.verdict).length === 1) return one;
    // Two things may have to change together.
    let best = one;
    for (let tried = 0; tried < MOST_MOVES && moves.length > 1; tried++) {
      const first = this.chance.pick(moves)(start.situation);
      const second = first && this.chance.pick(moves)(first);
      const found = second && (await this.#tryOne(second, use));
      if (found && (!best || findingsOf(found.verdict).length < findingsOf(best.verdict).length)) best = found;
      if (best && findingsOf(best.verdict).length === 1) return best;
    }
    return best;
  }

  /** Situations around what is accepted and what a use rejects, each changed in one thing that has to do with it: what is tried when rules are compared. */
  async around(use: string): Promise<readonly Situation[]> {
    const [accepted, rejected] = [await this.accepted(), await this.rejectedBy(use)];
    return [accepted, rejected].flatMap((start) => {
      if (!start) return [];
      const moves = [...movesFor(this, use, start.situation, 'break'), ...movesFor(this, use, start.situation, 'mend')];
      return [start.situation, ...moves.flatMap((move) => move(start.situation) ?? [])];
    });
  }

  async judge({ submission, given, store }: Situation): Promise<Verdict<unknown> | undefined> {
    try {
      return await judge(this.plan, submission, {
        given,
        now: this.#now,
        occasion: this.#occasion,
        report: 'everything',
        records: scoped(this.plan, recordsOf(store)),
        ...(this.plan.zone === undefined && { zone: 'UTC' }),
        ...(this.#locale !== undefined && { locale: this.#locale }),
      });
    } catch {
      // Given values that are unsound are nobody's submission.
      return undefined;
    }
  }

  async #search(): Promise<MadeExample | undefined> {
    return this.mended({
      submission: this.objectOf(this.plan.fields),
      given: this.objectOf(this.plan.given),
      store: {
        rows: Object.fromEntries(this.plan.collections.map((collection) => [collection.name, this.rowOf(collection)])),
        numbers: {},
      },
    });
  }

  /**
   * The situation with as much changed as it takes to be accepted; `undefined` where nothing was found that does.
   *
   * @param kept paths of fields that stay as they are
   */
  async mended(start: Situation, kept: ReadonlySet<string> = new Set(), steps = MOST_STEPS): Promise<MadeExample | undefined> {
    let best = start;
    let verdict = await this.judge(best);
    for (let step = 0; step < steps && verdict && verdict.outcome !== 'accepted'; step++) {
      const uses = [...new Set([...findingsOf(verdict), ...verdict.unsettled].map(({ use }) => use))];
      const moves = uses.flatMap((use) => movesFor(this, use, best, 'mend', kept));
      let next: MadeExample | undefined;
      for (const move of shuffled(moves, this.chance).slice(0, MOST_MOVES)) {
        const situation = move(best);
        const told = situation && (await this.judge(situation));
        if (situation && told && (!next || costOf(told) < costOf(next.verdict))) next = { situation, verdict: told };
        if (next?.verdict.outcome === 'accepted') break;
      }
      if (!next) return undefined;
      best = next.situation;
      verdict = next.verdict;
    }
    return verdict?.outcome === 'accepted' ? { situation: best, verdict } : undefined;
  }

  /** The fields that a use reads, by their paths. */
  fieldsOf(use: string): ReadonlySet<string> {
    const plan = this.plan.uses.find((each) => each.use === use);
    if (!plan) return new Set([use.slice(use.indexOf('@') + 1)]);
    return new Set(plan.roles.flatMap((role) => (role.entry ? role.entry.roles : [role]).map(({ place }) => place.path)));
  }

  async #best(from: Situation, moves: readonly Move[], use: string): Promise<MadeExample | undefined> {
    let best: MadeExample | undefined;
    for (const move of moves.slice(0, MOST_MOVES * 4)) {
      const situation = move(from);
      const found = situation && (await this.#tryOne(situation, use));
      if (found && (!best || findingsOf(found.verdict).length < findingsOf(best.verdict).length)) best = found;
      if (best && findingsOf(best.verdict).length === 1) break;
    }
    return best;
  }

  async #tryOne(situation: Situation, use: string): Promise<MadeExample | undefined> {
    const verdict = await this.judge(situation);
    return verdict && findingsOf(verdict).some((finding) => finding.use === use) ? { situation: copyOf(situation), verdict } : undefined;
  }

  /** Every use that can reject: those of the engine are none. */
  get uses(): readonly { readonly rule: string; readonly use: string }[] {
    const uses: { rule: string; use: string }[] = [];
    for (const part of [this.plan.fields]) walkSteps(part, ({ checks }) => uses.push(...checks));
    return [...uses, ...this.plan.uses];
  }
}

function findingsOf(verdict: Verdict<unknown>) {
  return verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
}

/** What is left to mend. A rule that was skipped because of another counts too, once that is mended. */
function costOf(verdict: Verdict<unknown>): number {
  return (verdict.outcome === 'rejected' ? verdict.findings.length : 0) + verdict.unsettled.length;
}

/** Records of many owners are asked for those of one: here anybody will do. */
function scoped(plan: Plan, records: ReturnType<typeof recordsOf>): ReturnType<typeof recordsOf> {
  const columns = plan.collections.flatMap(({ scope, columns: all }) =>
    scope.map((column) => [column, all[column]?.spec.examples?.('2031-01-01')[0] ?? 1] as const),
  );
  return columns.length === 0 ? records : { ...records, scope: Object.fromEntries(columns) as never };
}

function shuffled<T>(items: readonly T[], chance: Chance): T[] {
  const all = [...items];
  for (let at = all.length - 1; at > 0; at--) {
    const other = chance.below(at + 1);
    [all[at], all[other]] = [all[other] as T, all[at] as T];
  }
  return all;
}
