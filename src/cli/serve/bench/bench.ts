import { planOf } from '../../../core/intake.ts';
import type { Calls } from '../../../workbench/wire/calls.ts';
import type { Came, KeptSample } from '../../../workbench/wire/cases.ts';
import type { Judgement, Turning } from '../../../workbench/wire/judged.ts';
import type { DoorTold, HttpAnswer } from '../../../workbench/wire/requests.ts';
import type { ShownIntake } from '../../../workbench/wire/shown.ts';
import { type LoadedIntake, loadIntakes, loadModule } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { momentAt } from '../../records/settings.ts';
import { answerAt, answersTo } from './answers.ts';
import { cameOf, runCases } from './case-runs.ts';
import { judged, judgeSubject, type Subject, subjectOf } from './judged.ts';
import type { Loading } from './messages.ts';
import { OwnCode } from './own-code.ts';
import { tryPattern } from './pattern-pad.ts';
import { seenBy } from './reasons.ts';
import { rowsAt } from './rows-at.ts';
import { type Made, SettingsReader } from './settings-of.ts';
import { shownIntake } from './shown-intake.ts';
import { turningOf } from './turning.ts';

type CallArgument<N extends keyof Calls> = Parameters<Calls[N]>[0];

/** A loaded module, and all that the page asks of it. */
export class Bench {
  readonly #intakes: ReadonlyMap<string, LoadedIntake>;
  readonly #settings: SettingsReader;
  /** What the door of an intake judges by: that of the page, the last time. */
  readonly #last = new Map<string, { readonly subject: Subject; readonly made: Made }>();
  readonly hasRecords: boolean;

  private constructor(intakes: ReadonlyMap<string, LoadedIntake>, module: { readonly [name: string]: unknown }, code: OwnCode) {
    this.#intakes = intakes;
    this.#settings = new SettingsReader(module, code);
    this.hasRecords = module.records !== undefined;
  }

  static async of({ path, own, named }: Loading): Promise<Bench> {
    const intakes = await loadIntakes(path, undefined);
    const byName = new Map([...intakes.values()].map((intake) => [intake.name, intake]));
    return new Bench(byName, await loadModule(path), new OwnCode(own, named));
  }

  get names(): readonly string[] {
    return [...this.#intakes.keys()];
  }

  describe({ intake, locale, now }: CallArgument<'describe'>): Promise<ShownIntake> {
    return shownIntake(this.#intakeNamed(intake), locale, now === undefined ? new Date() : momentAt(now));
  }

  async judge(asked: CallArgument<'judge'>): Promise<Judgement> {
    const { intake, subject, made } = await this.#ready(asked);
    this.#last.set(intake.name, { subject, made });
    return judged(intake, subject, made);
  }

  async answers(asked: CallArgument<'answers'>): Promise<readonly HttpAnswer[]> {
    const { intake, subject, made } = await this.#ready(asked);
    return answersTo(intake, subject, made, asked);
  }

  async door(asked: CallArgument<'door'>): Promise<DoorTold> {
    const last = this.#last.get(asked.intake);
    if (!last) throw new Misuse(`Nothing was judged by "${asked.intake}" yet; open it in the workbench first.`);
    return answerAt(this.#intakeNamed(asked.intake), last.subject, last.made, asked);
  }

  async turn(asked: CallArgument<'turn'>): Promise<Turning> {
    const { intake, subject, made } = await this.#ready(asked);
    return turningOf(intake, subject, made, asked.pointer);
  }

  pattern(asked: CallArgument<'pattern'>) {
    return tryPattern(asked);
  }

  cases({ cases }: CallArgument<'cases'>) {
    return runCases(cases, (name) => this.#intakeNamed(name), this.#settings);
  }

  rows({ intake, path, wanted }: CallArgument<'rows'>) {
    return rowsAt(this.#intakeNamed(intake), path, wanted);
  }

  /** Many submissions, each by itself. */
  async alike({ intake: name, submissions, settings }: CallArgument<'alike'>): Promise<readonly Came[]> {
    const intake = this.#intakeNamed(name);
    const { options } = await this.#settings.read(intake, settings);
    const came: Came[] = [];
    for (const submission of submissions) came.push(cameOf(await intake.judge(submission, options as never)));
    return came;
  }

  /** What a rule read and found, as a sample of it. */
  async sample(asked: CallArgument<'sample'>): Promise<KeptSample> {
    const { intake, subject, made } = await this.#ready(asked);
    const verdict = await judgeSubject(intake, subject, { ...made.options, explain: true });
    const seen = seenBy(planOf(intake), verdict, asked.use, asked.entry);
    if (!seen) throw new Misuse(`"${asked.use}" came to no answer for this submission, so that it is no sample.`);
    const { use, holds, read, found } = seen;
    const isSecret = use.roles.some(({ place, entry }) => place.holdsSecret || entry?.roles.some((role) => role.place.holdsSecret));
    if (isSecret) throw new Misuse(`"${asked.use}" reads something secret, which is not written into a file.`);
    return { rule: use.rule, holds, sample: JSON.parse(JSON.stringify({ ...read, ...found, ...use.takes })) };
  }

  async #ready(asked: CallArgument<'judge'>) {
    const intake = this.#intakeNamed(asked.intake);
    return { intake, subject: subjectOf(asked), made: await this.#settings.read(intake, asked.settings) };
  }

  #intakeNamed(name: string): LoadedIntake {
    const intake = this.#intakes.get(name);
    if (!intake) throw new Misuse(`The module exports no intake named "${name}".`);
    return intake;
  }
}
