import { planOf } from '../core/intake.ts';
import { type GraphRule, graphOf } from '../core/plan/graph.ts';
import type { FieldSteps } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { pointerOfName, segmentsOf } from '../forms/names.ts';
import { secretsOf, stepsAt } from '../forms/steps-at.ts';
import type { AnyIntake } from '../http/receive/options.ts';
import { findingsIn } from './answers.ts';
import type { ShownFinding } from './showing.ts';

/** Asks the server about rules that need records, once a field has settled; a newer question takes the place of an older. */
export class Asking {
  readonly #address: string;
  readonly #wait: number;
  readonly #fields: FieldSteps;
  readonly #rules: readonly GraphRule[];
  readonly #isSecret: (name: string) => boolean;
  readonly #needed = new Set<string>();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #asked: AbortController | undefined;

  constructor(intake: AnyIntake, address: string, wait: number) {
    const plan = planOf(intake);
    this.#address = address;
    this.#wait = wait;
    this.#fields = plan.fields;
    this.#rules = graphOf(plan).rules.filter(({ step }) => step === 'record');
    this.#isSecret = secretsOf(intake);
    walkSteps(plan.fields, ({ place, needed }) => void (needed && this.#needed.add(place.path)));
  }

  /** Asks, when some rule that needs records reads the field, and everything that it needs is filled in. */
  ask(pointer: string, form: FormData, locale: string, show: (findings: readonly ShownFinding[]) => void): void {
    const own = this.#pathsOf(pointer);
    const pathsIn = (entries: readonly [string, unknown][]) => new Set(entries.flatMap(([name]) => this.#pathsOf(pointerOfName(name))));
    const filled = pathsIn([...form].filter(([, value]) => value !== ''));
    const shown = pathsIn([...form]);
    // What may be empty keeps no rule from being asked; what has to be filled in first will be.
    const isReady = (each: string) => filled.has(each) || !shown.has(each) || !this.#needed.has(each);
    const concerned = this.#rules.filter(({ reads }) => own.some((path) => reads.includes(path)) && reads.every(isReady));
    if (concerned.length === 0) return;
    this.stop();
    const asked = new AbortController();
    this.#asked = asked;
    this.#timer = setTimeout(() => void this.#send(form, locale, asked.signal, show), this.#wait);
  }

  /** Whether a rule that needs records has found it, and not one that the page judges by itself. */
  #isOfRecords({ rule, at: [pointer = ''] }: ShownFinding): boolean {
    const paths = this.#pathsOf(pointer);
    return this.#rules.some(({ rule: own, blames, reads }) =>
      paths.some((path) => (own === rule && blames.includes(path)) || (rule === 'known' && reads.includes(path))),
    );
  }

  /** The fields that a value is of: a name may stand in several shapes. */
  #pathsOf(pointer: string): string[] {
    return stepsAt(this.#fields, segmentsOf(pointer)).map(({ step }) => step.place.path);
  }

  stop(): void {
    clearTimeout(this.#timer);
    this.#asked?.abort();
  }

  async #send(form: FormData, locale: string, signal: AbortSignal, show: (findings: readonly ShownFinding[]) => void): Promise<void> {
    const body = new URLSearchParams();
    // What no record is needed for stays here: secrets and files.
    for (const [name, value] of form) if (typeof value === 'string' && !this.#isSecret(name)) body.append(name, value);
    const headers = { accept: 'application/problem+json', 'accept-language': locale };
    try {
      const response = await fetch(this.#address, { method: 'POST', body, headers, signal });
      const findings = (await findingsIn(response)) ?? [];
      if (!signal.aborted) show(findings.filter((finding) => this.#isOfRecords(finding)));
    } catch {
      // The form can be filled without the server; it will say so when the form is sent.
    }
  }
}
