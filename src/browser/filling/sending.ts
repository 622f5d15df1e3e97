import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import { findingsIn, REFUSED, type Said, SENT, SLOW, sentenceIn, troubleIn, UNREACHABLE } from './answers.ts';
import type { ShownFinding } from './finding.ts';
import type { FillingOptions } from './options.ts';
import { contentOf, type Entry } from './values.ts';

/** How long a server may take before people are told that it does, in milliseconds. */
const PATIENCE = 10_000;

/** What is done with what becomes of a form that was sent. */
export interface Answered {
  /** It is on its way, or people are told something else of it. */
  changed(): void;
  /** Whether any of them is shown: what has changed meanwhile is not blamed. */
  found(findings: readonly ShownFinding[]): boolean;
  /** There is something to read that is no list of findings. */
  troubled(): void;
  /** The application has done its part. */
  settled(): void;
}

/** Sends a form: one at a time, and what is done not twice. */
export class Sending {
  readonly #options: () => FillingOptions;
  readonly #locale: () => string;
  readonly #catalogues: readonly Catalogue[];
  #current: AbortController | undefined;
  /** What is done, or left to the browser. */
  #done: string | undefined;
  /** What became of the whole form, where that is no list of findings. */
  trouble: string | undefined;

  constructor(options: () => FillingOptions, locale: () => string, catalogues: readonly Catalogue[]) {
    this.#options = options;
    this.#locale = locale;
    this.#catalogues = catalogues;
  }

  get isPending(): boolean {
    return this.#current !== undefined;
  }

  /** It may be sent again, as it is. */
  again(): void {
    this.#done = undefined;
  }

  beginAnew(): void {
    this.again();
    this.trouble = undefined;
  }

  stop(): void {
    this.#current?.abort();
    this.#current = undefined;
  }

  /** Whether the browser may send it; it leaves the page then, and what is pressed meanwhile is not sent again. */
  leave(form: FormData): boolean {
    const content = contentOf(form as Iterable<Entry>);
    this.trouble = undefined;
    if (this.#done === content) this.#say(SENT);
    else this.#done = content;
    return this.trouble === undefined;
  }

  /** Sends it by a script. */
  async send(send: NonNullable<FillingOptions['send']>, form: FormData, answered: Answered): Promise<void> {
    if (!this.leave(form)) return answered.changed();
    const sending = new AbortController();
    const isAwaited = () => this.#current === sending;
    this.#current = sending;
    answered.changed();
    const slow = setTimeout(() => {
      if (!isAwaited()) return;
      this.#say(SLOW);
      answered.changed();
    }, PATIENCE);
    try {
      const response = await this.#reach(send, form, sending.signal, answered);
      clearTimeout(slow);
      if (response?.ok !== true && response?.type !== 'opaqueredirect') this.#done = undefined;
      if (!response || !isAwaited()) return;
      const findings = await findingsIn(response);
      this.trouble = findings ? undefined : await troubleIn(response, this.#locale(), this.#catalogues);
      if (findings && !answered.found(findings)) {
        // It was not accepted all the same.
        this.#say(REFUSED);
        answered.changed();
      } else if (this.trouble !== undefined) answered.troubled();
      await this.#options().onAnswer?.(response);
      if (isAwaited()) answered.settled();
    } finally {
      if (isAwaited()) {
        this.#current = undefined;
        answered.changed();
      }
    }
  }

  async #reach(
    send: NonNullable<FillingOptions['send']>,
    form: FormData,
    signal: AbortSignal,
    answered: Answered,
  ): Promise<Response | undefined> {
    try {
      return await send(form, signal);
    } catch (error) {
      if (signal.aborted) return undefined;
      this.#say(UNREACHABLE);
      answered.troubled();
      this.#options().onTrouble?.(error);
      return undefined;
    }
  }

  #say(said: Said): void {
    this.trouble = sentenceIn(said, this.#locale(), this.#catalogues);
  }
}
