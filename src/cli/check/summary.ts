import type { Finding, Verdict } from '../../core/basics/verdict.ts';
import type { Origin } from '../reading/data.ts';

/** How many submissions came to what. */
export interface Counts {
  accepted: number;
  rejected: number;
  undecided: number;
  unreadable: number;
}

/** One use of a rule on one field: how many findings it gave, and where the first is. */
export interface FoundBy {
  readonly rule: string;
  readonly use: string;
  readonly field: string;
  readonly severity: Finding['severity'];
  count: number;
  readonly example: { readonly origin: Origin; readonly pointer: string; readonly message: string };
}

/** One use that is on trial. */
export interface TriedBy {
  readonly rule: string;
  readonly use: string;
  held: number;
  failed: number;
  unsettled: number;
  example?: Origin;
}

/** What a run has found, counted as it goes on. */
export class Summary {
  readonly counts: Counts = { accepted: 0, rejected: 0, undecided: 0, unreadable: 0 };
  readonly #found = new Map<string, FoundBy>();
  readonly #tried = new Map<string, TriedBy>();
  readonly #open = new Map<string, { readonly rule: string; readonly use: string; readonly why: string; count: number }>();

  unreadable(): void {
    this.counts.unreadable++;
  }

  add(origin: Origin, verdict: Verdict<unknown>): void {
    this.counts[verdict.outcome]++;
    for (const finding of verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings) this.#find(origin, finding);
    for (const { rule, use, why } of verdict.unsettled) {
      const known = this.#open.get(`${use} ${why}`);
      if (known) known.count++;
      else this.#open.set(`${use} ${why}`, { rule, use, why, count: 1 });
    }
    for (const { rule, use, outcome } of verdict.trials ?? []) {
      const tried = this.#tried.get(use) ?? { rule, use, held: 0, failed: 0, unsettled: 0 };
      tried[outcome]++;
      if (outcome === 'failed') tried.example ??= origin;
      this.#tried.set(use, tried);
    }
  }

  #find(origin: Origin, { rule, use, severity, places, message }: Finding): void {
    const [place] = places;
    const field = place?.field ?? '';
    const key = `${severity} ${use} ${field}`;
    const known = this.#found.get(key);
    if (known) known.count++;
    else this.#found.set(key, { rule, use, field, severity, count: 1, example: { origin, pointer: place?.pointer ?? '', message } });
  }

  /** By how often, the most first. */
  get found(): readonly FoundBy[] {
    return [...this.#found.values()].sort((a, b) => b.count - a.count);
  }
  get tried(): readonly TriedBy[] {
    return [...this.#tried.values()];
  }
  get open(): readonly { readonly rule: string; readonly use: string; readonly why: string; readonly count: number }[] {
    return [...this.#open.values()];
  }
}
