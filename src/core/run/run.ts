import type { Finding, Severity, TraceLine, Verdict, Why } from '../basics/verdict.ts';
import type { Frame, Plan, RolePlan, UseInfo } from '../plan/plan.ts';
import type { Amending } from './amending.ts';
import { Now } from './clock.ts';
import type { Failure, Open, Spot, Tried } from './failures.ts';
import { newFrame } from './frames.ts';
import { pointerOf } from './places.ts';
import type { Settings } from './settings.ts';

/** Undeclared keys named in findings. */
const MOST_STRANGERS = 100;

/** A plan as code. It does what the loop does, with the same frames. */
export interface Code {
  /** Steps 1 to 4 of an object that is read as JSON. */
  read(run: Run, source: object, frame: Frame): void;
  /** Step 5. */
  between(run: Run, frame: Frame): void;
  /** The accepted value. */
  value(frame: Frame): object;
}

/** What a row finds that has the same as an earlier one. */
export interface Behind {
  readonly row: number;
  settle(outcome: Verdict<unknown>['outcome']): void;
}

/** Most judgements find nothing. */
const NONE: readonly never[] = Object.freeze([]);

/** What one judgement knows and has found so far. Made anew for each, so that nothing of one submission outlives it. */
export class Run {
  readonly frame: Frame;
  failures: readonly Failure[] = NONE;
  unsettled: readonly Open[] = NONE;
  readonly trace: TraceLine[] | undefined;
  readonly at: Now;
  /** Code for the plan, where this judgement may use it. */
  readonly code: Code | undefined;
  /** Of uses on trial: they decide nothing. */
  tried: Tried[] | undefined = undefined;
  /** The entries that were read last, for a rule that is evaluated on each of them. */
  read: { readonly role: RolePlan; readonly frame: Frame; readonly entries: unknown } | undefined = undefined;
  /** What is settled once it is known what became of an earlier row. */
  behind: Behind[] | undefined = undefined;
  /** Values are only read into frames; presence and value rules come later. */
  isReadingOnly = false;
  strangersLeft = MOST_STRANGERS;
  private roots: readonly Frame[] | undefined = undefined;
  private spent = 0;
  /** What was found by cause and places; the same is told once. */
  private told: Map<string, Severity> | undefined = undefined;
  /** The warnings among them, which an error replaces. */
  private warnings: Map<string, Failure> | undefined = undefined;
  /** Pointers of the places that an error blames; most judgements have none. */
  private failedAt: Set<string> | undefined = undefined;
  hasErrors = false;

  constructor(
    readonly plan: Plan,
    readonly settings: Settings,
    /** What changes, when a stored record is amended. */
    readonly amending?: Amending,
    code?: Code,
  ) {
    this.code = code;
    this.frame = newFrame(plan.size);
    this.trace = settings.explain ? [] : undefined;
    this.at = new Now(settings);
  }

  /** The frames around a rule that is evaluated on the submission as a whole. */
  get rootFrames(): readonly Frame[] {
    this.roots ??= [this.frame];
    return this.roots;
  }

  /** Entries that may be read and handed to rules, in all. */
  get budget(): number {
    return this.plan.budget;
  }

  /** Counts entries that are read, or handed to a rule; whether the submission may still cost that much. */
  spend(entries: number): boolean {
    this.spent += entries;
    return this.spent <= this.budget;
  }

  fail(info: UseInfo, spots: readonly Spot[], facts: Finding['facts'], words: Failure['words'], labels: Failure['labels']): void {
    this.add({ info, spots, facts, words, labels });
  }

  add(failure: Failure): void {
    const { info } = failure;
    if (info.isTrial) {
      this.try({ info, failure });
      return;
    }
    if (this.failures === NONE) this.failures = [];
    (this.failures as Failure[]).push(failure);
    if (info.severity === 'warning') return;
    this.hasErrors = true;
    if (this.failedAt) for (const spot of failure.spots) this.failedAt.add(pointerOf(spot));
  }

  /** Whether an error blames this place already. */
  hasFailedAt(pointer: string): boolean {
    if (!this.hasErrors) return false;
    this.failedAt ??= new Set(
      this.failures.flatMap(({ info, spots }) => (info.severity === 'error' ? spots.map((spot) => pointerOf(spot)) : [])),
    );
    return this.failedAt.has(pointer);
  }

  /**
   * Adds what a use found, unless the same was found at the same places already: under another condition, or by another
   * entry. An error stands for a warning.
   */
  addOnce(cause: string, failure: Failure): void {
    const { info, spots } = failure;
    const key = `${info.isTrial} ${cause} ${spots.map(pointerOf).sort().join(' ')}`;
    this.told ??= new Map();
    const earlier = this.told.get(key);
    if (earlier === 'error' || (earlier === 'warning' && info.severity === 'warning')) return;
    if (earlier) this.takeBack(key);
    this.add(failure);
    this.told.set(key, info.severity);
    if (info.severity === 'error' || info.isTrial) return;
    this.warnings ??= new Map();
    this.warnings.set(key, failure);
  }

  /** Before the rules look again: what they found at first is forgotten. */
  forget(): void {
    this.failures = NONE;
    this.hasErrors = false;
    const kept = this.trace?.filter(({ step }) => step !== 'record');
    if (this.trace && kept) this.trace.splice(0, this.trace.length, ...kept);
    this.told = undefined;
    this.warnings = undefined;
    this.failedAt = undefined;
  }

  private takeBack(key: string): void {
    const warning = this.warnings?.get(key);
    this.failures = this.failures.filter((failure) => failure !== warning);
  }

  leaveOpen(info: UseInfo, spots: readonly Spot[], why: Why, cause?: unknown): void {
    const open = { info, spots, why, cause };
    if (info.isTrial) return this.try({ info, open });
    if (this.unsettled === NONE) this.unsettled = [];
    (this.unsettled as Open[]).push(open);
  }

  /** Notes that a use on trial held. */
  held(info: UseInfo): void {
    if (info.isTrial) this.try({ info });
  }

  private try(tried: Tried): void {
    this.tried ??= [];
    this.tried.push(tried);
  }

  /** @param more what the trace tells besides; worked out only where there is one */
  explain(
    info: UseInfo,
    step: TraceLine['step'],
    outcome: TraceLine['outcome'],
    why?: string,
    because?: readonly string[],
    more?: () => Pick<TraceLine, 'entry' | 'conditions' | 'seen'>,
  ): void {
    if (outcome === 'held') this.held(info);
    if (!this.trace) return;
    const { seen, ...told } = more?.() ?? {};
    const line: TraceLine = {
      rule: info.rule,
      use: info.use,
      step,
      outcome,
      ...(why !== undefined && { why }),
      ...(because && because.length > 0 && { because }),
      ...told,
    };
    this.trace.push(seen ? Object.defineProperty(line, 'seen', { value: seen }) : line);
  }
}
