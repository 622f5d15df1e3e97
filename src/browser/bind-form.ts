import type { Finding, Verdict } from '../core/basics/verdict.ts';
import { amendLocally } from '../core/beside.ts';
import { planOf } from '../core/intake.ts';
import { formObject } from '../forms/form.ts';
import { pointerOfName } from '../forms/names.ts';
import { type AnyIntake, called } from '../http/receive/options.ts';
import { findingsIn, troubleIn } from './answers.ts';
import { Asking } from './asking.ts';
import { boxesIn, type Control, controlsOf, isControl, setAttributes } from './controls.ts';
import { renamingOf } from './renamed.ts';
import { keyOf, renamed, Showing, type ShownFinding } from './showing.ts';

/** How an intake is bound to a form. */
export interface BindOptions {
  /** The given fields of the intake, as far as the page knows them. */
  readonly given?: object | (() => object);
  /** What is stored, when the form changes it: as it was accepted, as far as the page may know it. */
  readonly stored?: object;
  /** The language of findings. Defaults to that of the document. */
  readonly locale?: () => string;
  /** Lists the findings of a form that was sent, each linked to its control. It should take the focus (`tabindex="-1"`). */
  readonly summary?: HTMLElement;
  /** An address that judges the form without storing it, for rules that need records: 2xx, or 422 with findings. */
  readonly judgeAt?: string;
  /** Milliseconds to wait before the server is asked. Defaults to 300. */
  readonly wait?: number;
  /** Sends the form by a script, and shows what the server finds. Without it the browser sends the form itself. */
  readonly send?: (form: FormData, signal: AbortSignal) => Promise<Response>;
  /** What follows an answer that is no list of findings: done, or a problem of another sort. */
  readonly onAnswer?: (response: Response) => void | Promise<void>;
  /** The server could not be reached. */
  readonly onTrouble?: (error: unknown) => void;
}

/** A form that is bound to its intake. */
export interface BoundForm {
  /** Shows findings of the server beside the fields and in the summary, and moves to the first. */
  show(findings: readonly ShownFinding[]): void;
  /** Looks at the form again, after controls were added, taken away or renamed: what was found goes with its row. */
  refresh(): void;
  /** Lets go of the form. */
  release(): void;
}

/** How long a key that is pressed makes a change wait for the next one. */
const WAIT = 300;
/** How long a page may take to be left, once its form has been sent. */
const TO_LEAVE = 1000;

/**
 * Binds an intake to an HTML form that is there already. A field is judged when it is left, and those that depend on it
 * with it; the server is asked only for rules that need records. Findings stand in the element with `data-field="/pointer"`,
 * else behind the control. Without scripts the form works as it stands.
 */
export function bindForm(form: HTMLFormElement, intake: AnyIntake, options: BindOptions = {}): BoundForm {
  return new BoundElements(form, intake, options);
}

class BoundElements implements BoundForm {
  readonly #form: HTMLFormElement;
  readonly #intake: AnyIntake;
  readonly #options: BindOptions;
  readonly #showing: Showing;
  readonly #asking: Asking | undefined;
  readonly #release = new AbortController();
  /** The controls, as they were called when the form was last looked at. */
  readonly #names = new Map<Control, string>();
  /** The fields that were left or sent; only these are blamed. */
  readonly #seen = new Set<string>();
  /** What the server has found, until a field of it changes. */
  #fromServer: readonly ShownFinding[] = [];
  #sending: AbortController | undefined;
  #isPressed = false;
  #isLeaving = false;
  /** What holds has changed while the pointer was down. */
  #isStale = false;

  constructor(form: HTMLFormElement, intake: AnyIntake, options: BindOptions) {
    this.#form = form;
    this.#intake = intake;
    this.#options = options;
    this.#showing = new Showing(form, intake, options.summary);
    this.#asking = options.judgeAt === undefined ? undefined : new Asking(intake, options.judgeAt, options.wait ?? WAIT);
    this.#prepare();
    const { signal } = this.#release;
    form.addEventListener('focusout', ({ target }) => this.#left(target), { signal });
    form.addEventListener('change', ({ target }) => this.#changed(target), { signal });
    form.addEventListener('submit', (event) => this.#submit(event), { signal });
    form.addEventListener('reset', () => setTimeout(() => signal.aborted || this.#beginAnew()), { signal });
    // A page that comes back from the browser's cache shows what still holds.
    addEventListener('pageshow', ({ persisted }) => persisted && this.#return(), { signal });
    for (const [type, isDown] of [
      ['pointerdown', true],
      ['pointerup', false],
      ['pointercancel', false],
    ] as const)
      addEventListener(type, () => this.#press(isDown), { signal, capture: true });
  }

  refresh(): void {
    const now = new Set([...controlsOf(this.#form).values()].flat());
    const renaming = renamingOf(this.#names, now);
    const seen = [...this.#seen].flatMap((pointer) => renaming(pointer) ?? []);
    this.#seen.clear();
    for (const pointer of seen) this.#seen.add(pointer);
    this.#fromServer = this.#fromServer.flatMap((finding) => renamed(finding, renaming) ?? []);
    this.#showing.rename(renaming, this.#locale);
    this.#asking?.stop();
    this.#prepare();
    this.#show();
  }

  /** Nothing was left, sent or found. */
  #beginAnew(): void {
    this.#seen.clear();
    this.#fromServer = [];
    this.#asking?.stop();
    this.#prepare();
    this.#showing.show([], this.#locale);
    this.#showing.summarise([], this.#locale);
  }

  release(): void {
    this.#release.abort();
    this.#asking?.stop();
    this.#sending?.abort();
    this.#showing.release();
  }

  show(findings: readonly ShownFinding[]): void {
    for (const pointer of [...controlsOf(this.#form).keys(), ...findings.flatMap(({ at }) => at)]) this.#seen.add(pointer);
    const here = this.#judge();
    const known = new Set(here.map(keyOf));
    this.#fromServer = findings.filter((finding) => !known.has(keyOf(finding)));
    this.#showing.show(findings, this.#locale);
    this.#showing.summarise(findings, this.#locale);
    this.#showing.focusFirst(findings);
  }

  get #locale(): string {
    return this.#options.locale?.() ?? (document.documentElement.lang || 'en');
  }

  /** The page shows findings itself, so the browser's own bubbles stay away; its attributes still tell what is wanted. */
  #prepare(): void {
    this.#form.setAttribute('novalidate', '');
    this.#names.clear();
    for (const [pointer, controls] of controlsOf(this.#form)) {
      for (const control of controls) {
        this.#names.set(control, pointer);
        setAttributes(this.#intake, control, this.#options.stored !== undefined);
      }
    }
  }

  /** Everything that can be known here. */
  #judge(): ShownFinding[] {
    const { given, stored } = this.#options;
    const submission = formObject(new FormData(this.#form));
    const options = {
      as: 'form',
      locale: this.#locale,
      report: 'firstOfEach',
      shown: boxesIn(this.#form, this.#intake),
      ...(given && { given: typeof given === 'function' ? given() : given }),
    };
    const intake = called(this.#intake);
    const verdict: Verdict<unknown> = stored
      ? amendLocally(this.#intake as never, stored, submission, { ...options, whole: true } as never)
      : intake.judgeLocally(submission, options);
    const findings: readonly Finding[] = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
    return findings.map(({ rule, places, message, severity }) => ({
      rule,
      at: places.map(({ pointer }) => pointer),
      message,
      ...(severity === 'warning' && { severity }),
    }));
  }

  #left(target: EventTarget | null): void {
    if (!isControl(target) || target.name === '') return;
    this.#seen.add(pointerOfName(target.name));
    this.#show();
  }

  #changed(target: EventTarget | null): void {
    if (!isControl(target) || target.name === '') return;
    const pointer = pointerOfName(target.name);
    this.#seen.add(pointer);
    this.#fromServer = this.#fromServer.filter(({ at }) => !at.includes(pointer));
    this.#show();
    this.#asking?.ask(pointer, new FormData(this.#form), this.#locale, (findings) => {
      this.#fromServer = [...this.#fromServer.filter((old) => !findings.some((fresh) => keyOf(fresh) === keyOf(old))), ...findings];
      this.#show();
    });
  }

  /**
   * Shows what is wrong with the fields that were seen. A finding waits until the last of its fields was, and one that appeared while a
   * button is being pressed would move it away from under the pointer.
   */
  #show(): void {
    this.#isStale = this.#isPressed;
    if (this.#isStale) return;
    const all = [...this.#judge(), ...this.#fromServer];
    this.#showing.show(
      all.filter(({ at }) => at.every((pointer) => this.#seen.has(pointer))),
      this.#locale,
    );
  }

  #press(isDown: boolean): void {
    this.#isPressed = isDown;
    if (isDown || !this.#isStale) return;
    this.#isStale = false;
    setTimeout(() => this.#release.signal.aborted || this.#show());
  }

  #submit(event: SubmitEvent): void {
    const submitter = event.submitter as HTMLButtonElement | HTMLInputElement | null;
    // A draft may be sent as it is (`formnovalidate`).
    if (submitter?.formNoValidate) {
      this.#asking?.stop();
      return this.#hand(event, submitter);
    }
    const here = this.#judge().filter(({ severity }) => severity !== 'warning');
    this.#asking?.stop();
    if (here.length > 0) {
      event.preventDefault();
      return this.show([...here, ...this.#fromServer]);
    }
    this.#hand(event, submitter);
  }

  #hand(event: SubmitEvent, submitter: HTMLElement | null): void {
    const { send } = this.#options;
    if (!send) return this.#leave(event);
    event.preventDefault();
    // One at a time: a second press sends nothing.
    if (!this.#sending) void this.#send(send, submitter);
  }

  /** The browser sends it, and leaves: what is pressed meanwhile is not sent again. */
  #leave(event: SubmitEvent): void {
    if (this.#isLeaving) return event.preventDefault();
    this.#isLeaving = true;
    this.#form.setAttribute('aria-busy', 'true');
    setTimeout(() => this.#stay(), TO_LEAVE);
  }

  #return(): void {
    this.#stay();
    this.#show();
  }

  #stay(): void {
    this.#isLeaving = false;
    if (!this.#sending) this.#form.removeAttribute('aria-busy');
  }

  async #send(send: NonNullable<BindOptions['send']>, submitter: HTMLElement | null): Promise<void> {
    const sending = new AbortController();
    this.#sending = sending;
    this.#form.setAttribute('aria-busy', 'true');
    try {
      // Which button was pressed is part of what is sent.
      const response = await send(new FormData(this.#form, submitter), sending.signal);
      const findings = await findingsIn(response);
      if (findings) this.show(findings);
      else {
        const trouble = await troubleIn(response, this.#locale, planOf(this.#intake).catalogues);
        if (trouble !== undefined) this.#showing.say(trouble, this.#locale);
      }
      await this.#options.onAnswer?.(response);
      // Whoever is done goes elsewhere, which takes its time.
      if (response.ok) await new Promise((resolve) => setTimeout(resolve, TO_LEAVE));
    } catch (error) {
      if (!sending.signal.aborted) this.#options.onTrouble?.(error);
    } finally {
      this.#sending = undefined;
      this.#form.removeAttribute('aria-busy');
    }
  }
}
