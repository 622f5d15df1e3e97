import type { Finding, Verdict } from '../core/basics/verdict.ts';

/** Where a row stands. */
export interface Origin {
  readonly file: string;
  /** Counted from 1. */
  readonly line?: number;
  /** Of a list in one JSON text: which of its entries, counted from 1. */
  readonly entry?: number;
}

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

/** One use that could not be decided. */
export interface OpenBy {
  readonly rule: string;
  readonly use: string;
  readonly why: string;
  count: number;
}

/** A summary as data, to be sent and written. */
export interface Summed {
  readonly counts: Counts;
  readonly found: readonly FoundBy[];
  readonly tried: readonly TriedBy[];
  readonly open: readonly OpenBy[];
  /** By the name of the file. */
  readonly sources: { readonly [file: string]: Counts };
}

export const NOTHING: Counts = { accepted: 0, rejected: 0, undecided: 0, unreadable: 0 };

/** What a run has found, counted as it goes on. */
export class Summary {
  readonly counts: Counts = { ...NOTHING };
  readonly #found = new Map<string, FoundBy>();
  readonly #tried = new Map<string, TriedBy>();
  readonly #open = new Map<string, OpenBy>();
  readonly #sources = new Map<string, Counts>();

  unreadable({ file }: Origin): void {
    this.counts.unreadable++;
    this.#of(file).unreadable++;
  }

  add(origin: Origin, verdict: Verdict<unknown>): void {
    this.counts[verdict.outcome]++;
    this.#of(origin.file)[verdict.outcome]++;
    for (const finding of verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings) this.#find(origin, finding);
    for (const { rule, use, why } of verdict.unsettled) this.#leave({ rule, use, why, count: 1 });
    for (const { rule, use, outcome } of verdict.trials ?? []) {
      const tried = { rule, use, held: 0, failed: 0, unsettled: 0, ...(outcome === 'failed' && { example: origin }) };
      tried[outcome] = 1;
      this.#try(tried);
    }
  }

  /** Adds what was counted elsewhere of the data behind. */
  take({ counts, found, tried, open, sources }: Summed): void {
    addTo(this.counts, counts);
    for (const each of found) this.#count(each);
    for (const each of tried) this.#try(each);
    for (const each of open) this.#leave(each);
    for (const [file, each] of Object.entries(sources)) addTo(this.#of(file), each);
  }

  /** By how often, the most first. */
  get found(): readonly FoundBy[] {
    return [...this.#found.values()].sort((a, b) => b.count - a.count);
  }
  get tried(): readonly TriedBy[] {
    return [...this.#tried.values()];
  }
  get open(): readonly OpenBy[] {
    return [...this.#open.values()];
  }
  get summed(): Summed {
    return {
      counts: this.counts,
      found: [...this.#found.values()],
      tried: this.tried,
      open: this.open,
      sources: Object.fromEntries(this.#sources),
    };
  }

  #of(file: string): Counts {
    const known = this.#sources.get(file) ?? { ...NOTHING };
    this.#sources.set(file, known);
    return known;
  }

  #find(origin: Origin, { rule, use, severity, places, message }: Finding): void {
    const [place] = places;
    const field = place?.field ?? '';
    const known = this.#found.get(`${severity} ${use} ${field}`);
    if (known) known.count++;
    else this.#count({ rule, use, field, severity, count: 1, example: { origin, pointer: place?.pointer ?? '', message } });
  }

  #count(each: FoundBy): void {
    const key = `${each.severity} ${each.use} ${each.field}`;
    const known = this.#found.get(key);
    if (known) known.count += each.count;
    else this.#found.set(key, { ...each });
  }

  #leave(each: OpenBy): void {
    const key = `${each.use} ${each.why}`;
    const known = this.#open.get(key);
    if (known) known.count += each.count;
    else this.#open.set(key, { ...each });
  }

  #try(each: TriedBy): void {
    const known = this.#tried.get(each.use);
    if (!known) {
      this.#tried.set(each.use, { ...each });
      return;
    }
    known.held += each.held;
    known.failed += each.failed;
    known.unsettled += each.unsettled;
    if (each.example) known.example ??= each.example;
  }
}

export function addTo(counts: Counts, more: Counts): void {
  for (const outcome of Object.keys(NOTHING) as (keyof Counts)[]) counts[outcome] += more[outcome];
}
