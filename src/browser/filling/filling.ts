import { amendLocally } from '../../core/beside.ts';
import { planOf } from '../../core/intake.ts';
import { formObject } from '../../forms/form.ts';
import { pointerOfName } from '../../forms/names.ts';
import { type AnyIntake, called } from '../../http/receive/options.ts';
import { Asking } from './asking.ts';
import { findingsOf, isError, keyOf, lineOf, nearest, renamed, type ShownFinding, UNTOLD } from './finding.ts';
import type { FillingOptions } from './options.ts';
import { type Controls, NOTHING, type Page, UNREADABLE_TEXT } from './page.ts';
import { Readers } from './readers.ts';
import type { Renaming } from './renaming.ts';
import { Sending } from './sending.ts';
import { type Flight, Served } from './served.ts';
import { changedIn, type Entry, moved, type Values, valuesOf } from './values.ts';

/**
 * A form while it is filled in: what is found, by the page and by the server, and how long that holds. It knows no page: controls tell it
 * what they send, and what it gives is shown by whoever shows it.
 */
export class Filling {
  readonly #intake: AnyIntake;
  readonly #options: () => FillingOptions;
  readonly #controls: Controls;
  readonly #page: Page;
  readonly #readers: Readers;
  readonly #served: Served;
  readonly #asking: Asking;
  readonly #sending: Sending;
  #filled = NOTHING;
  /** The fields that were left or sent; only these are blamed. */
  readonly #seen = new Set<string>();
  /** The fields whose value has changed since the form was first looked at. */
  readonly #altered = new Set<string>();
  /** Those of them that the server was not asked about yet. */
  readonly #unasked = new Set<string>();
  #question: Flight | undefined;
  #entries: readonly Entry[];
  #values: Values;
  #wasSent = false;
  /** It is on its way, and nothing is known of it yet. */
  #isAwaited = false;
  /** A button is being pressed: what appears would move it away from under the pointer. */
  #isPressed = false;
  #isStale = false;

  constructor(intake: AnyIntake, controls: Controls, page: Page, options: () => FillingOptions) {
    this.#intake = intake;
    this.#controls = controls;
    this.#page = page;
    this.#options = options;
    this.#readers = new Readers(intake);
    this.#served = new Served(this.#readers);
    this.#asking = new Asking(intake);
    this.#sending = new Sending(options, () => page.locale(), planOf(intake).catalogues);
    this.#entries = controls.entries();
    this.#values = valuesOf(this.#entries);
  }

  /** Something is being typed: what is mended goes, and nothing new is blamed. */
  typed(): void {
    this.#look();
    this.#show(true);
  }

  /** A field was left, or has its new value. One that is empty, and always was, is not blamed before the form was sent. */
  left(pointer: string): void {
    this.#look();
    const value = this.#values.get(pointer) ?? '""';
    if (this.#wasSent || this.#altered.has(pointer) || value !== '""') this.#seen.add(pointer);
    this.#ask();
    this.#show();
  }

  /** Looks again, after something was changed by a script. */
  look(): void {
    this.#look();
    this.#ask();
    this.#show();
  }

  /** Rows were moved or taken away: what was found goes with its row. */
  rename(renaming: Renaming): void {
    this.#served.rename(renaming, this.#values);
    for (const set of [this.#seen, this.#altered, this.#unasked]) {
      const now = [...set].flatMap((pointer) => renaming(pointer) ?? []);
      set.clear();
      for (const pointer of now) set.add(pointer);
    }
    this.#filled = { ...this.#filled, findings: this.#filled.findings.flatMap((finding) => renamed(finding, renaming) ?? []) };
    this.#values = moved(this.#values, renaming);
    this.look();
  }

  /** Nothing was left, sent or found. */
  beginAnew(): void {
    this.#asking.stop();
    for (const set of [this.#seen, this.#altered, this.#unasked]) set.clear();
    this.#served.clear();
    this.#wasSent = false;
    this.#isAwaited = false;
    this.#sending.beginAnew();
    this.#entries = this.#controls.entries();
    this.#values = valuesOf(this.#entries);
    this.#show();
  }

  /** What was sent may be sent again: its page has come back, or is left no more. */
  comeBack(): void {
    this.#sending.again();
    this.look();
  }

  press(isDown: boolean): void {
    this.#isPressed = isDown;
    if (!isDown && this.#isStale) this.#show();
  }

  stop(): void {
    this.#asking.stop();
    this.#served.clear();
    this.#sending.stop();
  }

  /** The page has come with findings of the server, so the form was sent. */
  adopt(findings: readonly ShownFinding[]): void {
    if (findings.length === 0) return;
    this.#served.answer(this.#served.takeOff(this.#values), findings, this.#values, () => true);
    this.#seeAll();
  }

  /** Shows findings of the server about what stands in the form now, and moves to the first. */
  show(findings: readonly ShownFinding[]): void {
    this.#look();
    this.#serve(this.#served.takeOff(this.#values), findings);
  }

  /**
   * The form is to be sent.
   *
   * @param isDraft it is sent as it is, whatever the intake says (`formnovalidate`)
   * @param isGuarded the browser sends it and leaves the page: what is pressed meanwhile is not sent again
   * @returns whether the browser sends it
   */
  submit(form: FormData, isDraft: boolean, isGuarded: boolean): boolean {
    if (this.#sending.isPending) return false;
    this.#controls.hold(undefined);
    this.#look();
    this.#asking.stop();
    // What cannot be read would be sent as if nothing had been typed.
    const unreadable = this.#entries.filter(([, value]) => value === UNREADABLE_TEXT);
    const isStopped = isDraft ? unreadable.length > 0 : this.#judge().some(isError);
    this.#isAwaited = !isStopped;
    if (isDraft) this.#see(unreadable.map(([name]) => pointerOfName(name)));
    else this.#seeAll();
    if (isStopped) {
      this.#page.move(this.#filled);
      return false;
    }
    const { send } = this.#options();
    if (!send) {
      this.#isAwaited = false;
      const isLeft = !isGuarded || this.#sending.leave(form);
      this.#show();
      return isLeft;
    }
    this.#controls.hold(form);
    const flight = this.#served.takeOff(this.#values);
    void this.#sending.send(send, form, {
      changed: () => {
        this.#isAwaited &&= this.#sending.isPending;
        this.look();
      },
      found: (findings) => this.#serve(flight, findings),
      troubled: () => {
        this.#isAwaited = false;
        this.#show();
        this.#page.move(this.#filled);
      },
      // What was disabled meanwhile could not take the focus.
      settled: () => {
        this.look();
        this.#page.move(this.#filled, true);
      },
    });
    return false;
  }

  /** Everything that can be known here. */
  #judge(): ShownFinding[] {
    const { given, stored } = this.#options();
    const submission = formObject(this.#entries);
    const options = {
      as: 'form',
      locale: this.#page.locale(),
      report: 'firstOfEach',
      shown: this.#controls.boxes(),
      ...(given && { given: typeof given === 'function' ? given() : given }),
    };
    if (!stored) return findingsOf(called(this.#intake).judgeLocally(submission, options));
    return findingsOf(amendLocally(this.#intake as never, stored, submission, { ...options, whole: true } as never));
  }

  /** What has changed since is no longer what the server has judged. */
  #look(): void {
    this.#entries = this.#controls.entries();
    const now = valuesOf(this.#entries);
    const changed = changedIn(this.#values, now);
    this.#values = now;
    for (const pointer of changed) {
      this.#altered.add(pointer);
      this.#unasked.add(pointer);
    }
    this.#served.forget(changed);
  }

  #ask(): void {
    const { judgeAt, wait } = this.#options();
    const changed = [...this.#unasked];
    this.#unasked.clear();
    const entries = this.#entries;
    if (judgeAt === undefined || changed.length === 0 || !this.#asking.isConcerned(changed, entries)) return;
    if (this.#question) this.#served.land(this.#question);
    const flight = this.#served.takeOff(this.#values);
    this.#question = flight;
    void this.#asking.ask(judgeAt, entries, this.#page.locale(), wait).then((findings) => {
      if (findings) this.#answered(flight, findings);
    });
  }

  /** An answer to a question; what it finds is told to people who are elsewhere by now. */
  #answered(flight: Flight, findings: readonly ShownFinding[]): void {
    if (!this.#served.land(flight)) return;
    this.#look();
    const before = new Set(this.#filled.findings.map(keyOf));
    this.#served.answer(flight, findings, this.#values, (finding) => this.#readers.isAsked(finding));
    this.#show();
    this.#whisper(this.#filled.findings.filter((finding) => !before.has(keyOf(finding))));
  }

  /**
   * Everything was judged. Of a form that was reset meanwhile nobody wants to know what was found, and who goes on typing is not disturbed.
   *
   * @returns whether something is shown that is wrong
   */
  #serve(flight: Flight, findings: readonly ShownFinding[]): boolean {
    if (!this.#served.land(flight)) return false;
    this.#look();
    this.#served.answer(flight, findings, this.#values, () => true);
    this.#isAwaited = false;
    this.#seeAll();
    if (changedIn(flight.values, this.#values).length === 0) this.#page.move(this.#filled);
    else this.#whisper(this.#filled.summary);
    return this.#filled.findings.some(isError);
  }

  #whisper(findings: readonly ShownFinding[]): void {
    if (findings.length > 0) this.#page.tell(findings.map(({ message }) => message).join(' '));
  }

  /** The form was sent, and all of it seen. */
  #seeAll(): void {
    this.#wasSent = true;
    this.#see(this.#controls.pointers());
  }

  #see(pointers: Iterable<string>): void {
    for (const pointer of pointers) this.#seen.add(pointer);
    this.#isPressed = false;
    this.#show();
  }

  /** A finding waits until the last of its fields was seen. */
  #show(isTyping = false): void {
    this.#isStale = this.#isPressed;
    if (this.#isStale) return;
    const here = this.#judge();
    const known = new Set(here.flatMap((finding) => [keyOf(finding), lineOf({ ...finding, rule: UNTOLD, at: finding.at.slice(0, 1) })]));
    const all = [...here, ...this.#served.findings.filter((each) => !known.has(keyOf(each)) && !known.has(lineOf(each)))];
    const before = new Set(this.#filled.findings.map(keyOf));
    const pointers = this.#controls.pointers();
    const findings = all.filter(
      (finding) => finding.at.every((pointer) => this.#isSeen(pointer, pointers)) && (!isTyping || before.has(keyOf(finding))),
    );
    // While the form is on its way nobody knows yet what has become of earlier answers.
    const listed = new Set(this.#filled.summary.map(keyOf));
    const isListed = (finding: ShownFinding) => !this.#isAwaited || here.includes(finding) || listed.has(keyOf(finding));
    this.#filled = {
      entries: this.#entries,
      findings,
      summary: this.#wasSent ? findings.filter((finding) => isError(finding) && isListed(finding)) : [],
      trouble: this.#sending.trouble,
      isPending: this.#sending.isPending,
    };
    this.#page.show(this.#filled);
  }

  #isSeen(pointer: string, pointers: ReadonlySet<string>): boolean {
    const near = nearest(pointer, (each) => pointers.has(each));
    return near === '' ? this.#wasSent : this.#seen.has(near);
  }
}
