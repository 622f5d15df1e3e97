import { readFileSync } from 'node:fs';
import type { Readable } from 'node:stream';
import { nearest } from '../../core/basics/fault.ts';
import { momentOf } from '../../core/basics/moments.ts';
import { planOf } from '../../core/intake.ts';
import type { Options } from '../../core/judging/options.ts';
import { givenNames, type LoadedIntake } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { readJson } from '../reading/json.ts';
import { readJsonFile } from '../reading/read-data.ts';
import { recordsAt, type Telling } from './records-at.ts';

/** How submissions are judged, as the command line says it. */
export interface JudgingFlags {
  readonly records?: string;
  readonly given?: string;
  readonly locale: string;
  readonly now?: string;
  readonly occasion?: string;
  readonly report?: 'everything' | 'firstOfEach' | 'firstOfAll';
}

/** Options of `judge`, and what has to be closed in the end. */
export interface Settings {
  readonly options: Options & { readonly given?: object };
  close(): Promise<void>;
}

export async function settingsFor(intake: LoadedIntake, flags: JudgingFlags, telling: Telling): Promise<Settings> {
  const { locale, report, occasion, now } = flags;
  checkLocale(locale);
  checkOccasion(intake, occasion);
  const moment = now === undefined ? undefined : momentAt(now);
  const given = await givenFor(intake, flags.given, telling.stdin);
  const records = flags.records === undefined ? undefined : await recordsAt(flags.records, intake.collections, telling);
  return {
    options: {
      locale,
      ...(report && { report }),
      ...(occasion !== undefined && { occasion }),
      ...(moment && { now: moment }),
      ...(records && { records: records.records }),
      ...(given && { given }),
    },
    close: async () => records?.close(),
  };
}

/** The given values that an option has, as a JSON file or as JSON: for who hands them on as a text. */
export function givenText(given: string): string {
  if (given.trimStart().startsWith('{')) return given;
  try {
    return readFileSync(given, 'utf8').trim();
  } catch {
    throw new Misuse(`There is no file ${given}.`);
  }
}

async function givenFor(intake: LoadedIntake, text: string | undefined, stdin: Readable): Promise<object | undefined> {
  const names = givenNames(intake);
  if (text === undefined) {
    if (names.length === 0) return undefined;
    throw new Misuse(
      `Intake "${intake.name}" needs given values for ${names.join(', ')}; pass them with --given, as a JSON file or as JSON.`,
    );
  }
  const value = text.trimStart().startsWith('{') ? inline(text) : await readJsonFile(text, stdin);
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new Misuse('--given must be a JSON object with the given fields by name.');
  for (const name of Object.keys(value)) {
    if (!names.includes(name))
      throw new Misuse(`--given has "${name}", which is no given field of "${intake.name}"; ${nearest(name, names)}`);
  }
  return value;
}

function inline(text: string): unknown {
  const read = readJson(text);
  if ('problem' in read) throw new Misuse(`--given is not JSON: ${read.problem}.`);
  return read.value;
}

export function checkLocale(locale: string): void {
  try {
    if (Intl.DateTimeFormat.supportedLocalesOf(locale).length > 0) return;
  } catch {
    // No language tag at all.
  }
  throw new Misuse(`--locale ${locale} is no language that is known here; write its tag, such as en, de or de-AT (BCP 47).`);
}

export function checkOccasion(intake: LoadedIntake, occasion: string | undefined): void {
  const { occasions } = planOf(intake);
  if (occasion !== undefined && !occasions.includes(occasion))
    throw new Misuse(`--occasion ${occasion} is none of "${intake.name}"; ${nearest(occasion, occasions)}`);
}

export function momentAt(text: string): Date {
  const moment = momentOf(text);
  if (moment === undefined)
    throw new Misuse(`--now ${text} is not a moment; write it as 2031-05-01T09:00:00Z (RFC 3339), on a day that exists.`);
  return new Date(moment);
}
