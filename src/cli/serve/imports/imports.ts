import { existsSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import type { Settings, Told } from '../../../workbench/wire/asked.ts';
import type { Calls } from '../../../workbench/wire/calls.ts';
import type { Came } from '../../../workbench/wire/cases.ts';
import type { Alike, AlikeAsked, Import, ImportedRow, Row } from '../../../workbench/wire/imports.ts';
import { Misuse } from '../../basics/misuse.ts';
import { placeOf } from '../../reading/data.ts';
import { givenText } from '../../records/settings.ts';
import { changedAt, Screened } from './screened.ts';
import { pointersOf, type ReadVerdict, VerdictList } from './verdict-list.ts';

/** Asks the process with the module, or with another version of it. */
export type Ask = <N extends keyof Calls>(
  name: N,
  argument: Parameters<Calls[N]>[0],
  version?: string,
) => Promise<Told<ReturnType<Calls[N]>>>;

interface Opened {
  readonly path: string;
  readonly changed: number;
  readonly list: VerdictList;
  /** Nothing for the verdicts of a check. */
  readonly screened?: Screened;
}

/** Rows that are judged again at most, to see what has become of their like. */
const MOST_ALIKE = 300;

/** Imports whose verdicts are looked at: counted, and each row at hand. */
export class Imports {
  readonly #ask: Ask;
  #opened: Opened | undefined;

  constructor(ask: Ask) {
    this.#ask = ask;
  }

  /** @throws Misuse for what holds no verdicts */
  async open(path: string): Promise<Import> {
    const { list, screened } = await this.#open(path);
    const { rows, counts, rules, columns } = list;
    return { path, rows, counts, rules, columns, ...(screened && { intake: screened.manifest.intake }) };
  }

  /** @throws Misuse where it cannot be read */
  async row(path: string, number: number, intake: string): Promise<ImportedRow> {
    const opened = await this.#open(path);
    const verdict = opened.list.verdict(number);
    const { file, outcome, findings = [], warnings = [], unsettled = [], problem } = verdict;
    const [row] = await this.#rows(opened, [number], opened.screened?.manifest.intake ?? intake);
    if (!row || 'problem' in row)
      throw new Misuse(
        `Row ${number} (${placeOf(verdict)}) cannot be opened: ${problem ?? row?.problem ?? 'it is not there'}`.replace(/[^.]$/, '$&.'),
      );
    const doubt = doubtAbout(opened, [file]);
    return {
      row: number,
      place: placeOf(verdict),
      outcome,
      findings: [...findings, ...warnings].map((finding) => ({ use: finding.use, message: finding.message, at: pointersOf(finding) })),
      open: unsettled,
      submission: JSON.stringify(row.submission, null, 2),
      intake: opened.screened?.manifest.intake ?? intake,
      settings: { ...settingsOf(opened), as: row.as },
      ...(doubt !== undefined && { doubt }),
    };
  }

  /** Judges rows that a rule has found fault with again, by the rules as they are now or by another version. */
  async alike({ path, use, severity, intake: chosen, settings, version }: AlikeAsked): Promise<Told<Alike>> {
    const opened = await this.#open(path);
    const numbers = opened.list.rules.find((rule) => rule.use === use && rule.severity === severity)?.rows.slice(0, MOST_ALIKE) ?? [];
    if (numbers.length === 0) throw new Misuse(`"${use}" has found nothing in ${path}.`);
    const intake = opened.screened?.manifest.intake ?? chosen;
    const rows = await this.#rows(opened, numbers, intake);
    const read = rows.flatMap((row, at) => ('submission' in row ? [{ ...row, number: numbers[at] as number }] : []));
    const as = read[0]?.as ?? settings.as;
    const submissions = read.map(({ submission }) => submission);
    const told = await this.#ask('alike', { intake, submissions, settings: { ...settings, ...settingsOf(opened), as } }, version);
    if ('problem' in told) return told;
    const came = (is: (came: Came) => boolean) => read.flatMap(({ number }, at) => (is(told[at] as Came) ? [number] : []));
    const isFound = ({ found }: Came) => found.some((each) => each.startsWith(`${use} `));
    const doubt = doubtAbout(
      opened,
      numbers.map((number) => opened.list.verdict(number).file),
    );
    return {
      judged: read.length,
      unread: numbers.length - read.length,
      ...(doubt !== undefined && { doubt }),
      same: came(isFound),
      other: came((each) => !isFound(each) && each.outcome === 'rejected'),
      accepted: came((each) => !isFound(each) && each.outcome === 'accepted'),
      open: came((each) => !isFound(each) && each.outcome === 'undecided'),
    };
  }

  async #open(named: string): Promise<Opened> {
    const path = resolve(named);
    if (!existsSync(path)) throw new Misuse(`There is no folder or file ${named}.`);
    const screened = statSync(path).isDirectory() ? new Screened(path) : undefined;
    const verdicts = screened?.verdicts ?? path;
    const changed = changedAt(verdicts);
    if (this.#opened?.path === path && this.#opened.changed === changed) return this.#opened;
    this.#opened = { path, changed, list: await VerdictList.of(verdicts), ...(screened && { screened }) };
    return this.#opened;
  }

  async #rows({ screened, list, path }: Opened, numbers: readonly number[], intake: string): Promise<readonly Row[]> {
    if (screened) return screened.rows(numbers);
    const rows: Row[] = [];
    // Rows of one file are read together; they come in its order.
    for (let at = 0; at < numbers.length; ) {
      const places = numbers.slice(at).map((number) => list.verdict(number));
      const { file } = places[0] as ReadVerdict;
      const others = places.findIndex((place) => place.file !== file);
      const wanted = places.slice(0, others < 0 ? places.length : others);
      const read = await this.#ask('rows', {
        intake,
        path: pathOf(file, path),
        wanted: wanted.map(({ line, entry }) => ({ line, entry })),
      });
      if ('problem' in read) throw new Misuse(read.problem);
      rows.push(...read);
      at += wanted.length;
    }
    return rows;
  }
}

/** Of a screening it is known which bytes were judged; of a check only when its verdicts were written. */
function doubtAbout({ screened, path, changed }: Opened, files: readonly string[]): string | undefined {
  const file = screened ? undefined : [...new Set(files)].find((each) => changedAt(pathOf(each, path)) > changed);
  return file === undefined ? undefined : `${file} was changed after these verdicts were written: its rows may be others.`;
}

/** As it was judged; the verdicts of a check do not say. */
function settingsOf({ screened }: Opened): Partial<Settings> {
  if (!screened) return {};
  const { locale, now, occasion, given } = screened.manifest;
  return { locale, now, ...(occasion !== undefined && { occasion }), ...(given !== undefined && { given: givenText(given) }) };
}

/** A file is named from where the check ran: here, or where its verdicts are. */
function pathOf(file: string, verdicts: string): string {
  const found = [resolve(file), resolve(dirname(verdicts), file)].find((path) => existsSync(path));
  if (found === undefined)
    throw new Misuse(`There is no file ${file} here or beside the verdicts; start the workbench where the check ran.`);
  return found;
}
