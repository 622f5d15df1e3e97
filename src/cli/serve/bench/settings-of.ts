import type { Readable } from 'node:stream';
import type { Options } from '../../../core/judging/options.ts';
import type { Records } from '../../../core/stored/records.ts';
import type { Settings } from '../../../workbench/wire/asked.ts';
import { givenNames, type LoadedIntake } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { isDatabase } from '../../databases/databases.ts';
import { readJson } from '../../reading/json.ts';
import { isModule, type OpenedRecords, recordsAt } from '../../records/records-at.ts';
import { checkLocale, checkOccasion, momentAt } from '../../records/settings.ts';
import type { OwnCode } from './own-code.ts';

/** What judging needs, made from how the page has it. */
export interface Made {
  readonly options: Options & { readonly now: Date; readonly given?: object };
  readonly given: object | undefined;
  readonly records: Records | undefined;
}

/** Opens what settings name, and keeps databases open. */
export class SettingsReader {
  readonly #module: { readonly [name: string]: unknown };
  readonly #code: OwnCode;
  readonly #open = new Map<string, Promise<OpenedRecords>>();

  constructor(module: { readonly [name: string]: unknown }, code: OwnCode) {
    this.#module = module;
    this.#code = code;
  }

  async read(intake: LoadedIntake, settings: Settings): Promise<Made> {
    const { locale, as, report, occasion, now } = settings;
    checkLocale(locale);
    checkOccasion(intake, occasion);
    const given = givenOf(intake, settings.given);
    const records = await this.#recordsOf(intake, settings.records);
    const options = {
      locale,
      as,
      report,
      now: now === undefined ? new Date() : momentAt(now),
      ...(occasion !== undefined && { occasion }),
      ...(records && { records }),
      ...(given && { given }),
    };
    return { options, given, records };
  }

  async #recordsOf(intake: LoadedIntake, where: string): Promise<Records | undefined> {
    if (where === '') return undefined;
    if (where === 'module') {
      const { records } = this.#module;
      const made: unknown = typeof records === 'function' ? await records() : records;
      if (typeof (made as Records | undefined)?.ask !== 'function') throw new Misuse('The module exports no "records".');
      return made as Records;
    }
    if (isModule(where)) this.#code.check(where);
    // Files are small, and change while one tries; a database is opened once.
    if (!isDatabase(where)) return (await opened(intake, where)).records;
    const known = this.#open.get(where) ?? opened(intake, where);
    this.#open.set(where, known);
    known.catch(() => this.#open.delete(where));
    return (await known).records;
  }
}

function opened(intake: LoadedIntake, where: string): Promise<OpenedRecords> {
  return recordsAt(where, intake.collections, { stdin: undefined as unknown as Readable, warn: () => undefined });
}

function givenOf(intake: LoadedIntake, text: string | undefined): object | undefined {
  const names = givenNames(intake);
  if (text === undefined || text.trim() === '') {
    if (names.length === 0) return undefined;
    throw new Misuse(`"${intake.name}" needs given values for ${names.join(', ')}; write them under Given, as JSON.`);
  }
  if (names.length === 0) return undefined;
  return objectIn(text, 'Given');
}

/** A JSON object that the page has as a text. */
export function objectIn(text: string, what: string): object {
  const value = valueIn(text, what);
  if (typeof value !== 'object' || value === null || Array.isArray(value)) throw new Misuse(`${what} has to be a JSON object.`);
  return value;
}

/** A JSON value that the page has as a text. */
export function valueIn(text: string, what: string): unknown {
  const read = readJson(text);
  if ('problem' in read) throw new Misuse(`${what} is not JSON: ${read.problem}.`);
  return read.value;
}
