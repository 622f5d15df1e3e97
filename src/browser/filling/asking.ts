import { planOf } from '../../core/intake.ts';
import { type GraphRule, graphOf } from '../../core/plan/graph.ts';
import type { FieldSteps } from '../../core/plan/plan.ts';
import { walkSteps } from '../../core/plan/walk.ts';
import { pointerOfName, segmentsOf } from '../../forms/names.ts';
import { secretsOf, stepsAt } from '../../forms/steps-at.ts';
import { findingsIn } from './answers.ts';
import type { ShownFinding } from './finding.ts';
import type { Entry } from './values.ts';

/** How long a change waits for the next one, in milliseconds. */
const WAIT = 300;

/** Asks the server about rules that need records, once a field has settled; a newer question takes the place of an older. */
export class Asking {
  readonly #fields: FieldSteps;
  readonly #rules: readonly GraphRule[];
  readonly #isSecret: (name: string) => boolean;
  readonly #needed = new Set<string>();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #asked: AbortController | undefined;

  constructor(intake: { readonly name: string }) {
    const plan = planOf(intake);
    this.#fields = plan.fields;
    this.#rules = graphOf(plan).rules.filter(({ step }) => step === 'record');
    this.#isSecret = secretsOf(intake);
    walkSteps(plan.fields, ({ place, needed }) => void (needed && this.#needed.add(place.path)));
  }

  /** Whether some rule that needs records reads one of the fields, and everything that it needs is filled in. */
  isConcerned(changed: readonly string[], entries: readonly Entry[]): boolean {
    const own = changed.flatMap((pointer) => this.#pathsOf(pointer));
    const pathsIn = (some: readonly Entry[]) => new Set(some.flatMap(([name]) => this.#pathsOf(pointerOfName(name))));
    const filled = pathsIn(entries.filter(([, value]) => value !== ''));
    const shown = pathsIn(entries);
    // What may be empty keeps no rule from being asked; what has to be filled in first will be.
    const isReady = (path: string) => filled.has(path) || !shown.has(path) || !this.#needed.has(path);
    return this.#rules.some(({ reads }) => own.some((path) => reads.includes(path)) && reads.every(isReady));
  }

  /** Asks, unless something newer is asked meanwhile; an answer that is none tells nothing. */
  ask(address: string, entries: readonly Entry[], locale: string, wait = WAIT): Promise<readonly ShownFinding[] | undefined> {
    this.stop();
    const asked = new AbortController();
    this.#asked = asked;
    return new Promise((resolve) => {
      this.#timer = setTimeout(() => resolve(this.#answer(address, entries, locale, asked.signal)), wait);
    });
  }

  stop(): void {
    clearTimeout(this.#timer);
    this.#asked?.abort();
  }

  /** The fields that a value is of: a name may stand in several shapes. */
  #pathsOf(pointer: string): string[] {
    return stepsAt(this.#fields, segmentsOf(pointer)).map(({ step }) => step.place.path);
  }

  async #answer(
    address: string,
    entries: readonly Entry[],
    locale: string,
    signal: AbortSignal,
  ): Promise<readonly ShownFinding[] | undefined> {
    const body = new URLSearchParams();
    // What no record is needed for stays here: secrets and files.
    for (const [name, value] of entries) if (typeof value === 'string' && !this.#isSecret(name)) body.append(name, value);
    const headers = { accept: 'application/problem+json', 'accept-language': locale };
    try {
      const response = await fetch(address, { method: 'POST', body, headers, signal });
      const findings = response.ok ? [] : await findingsIn(response);
      return signal.aborted ? undefined : findings;
    } catch {
      // The form can be filled without the server; it will say so when the form is sent.
      return undefined;
    }
  }
}
