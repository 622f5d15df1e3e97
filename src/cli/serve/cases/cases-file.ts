import { createHash } from 'node:crypto';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, extname, isAbsolute, join, relative, resolve } from 'node:path';
import type { CaseChange, CaseRead, CasesChanged, KeptCase } from '../../../workbench/wire/cases.ts';
import { Misuse } from '../../basics/misuse.ts';
import { rewrite } from '../../basics/rewrite.ts';
import { withoutPassword } from '../../databases/address.ts';
import { isDatabase } from '../../databases/databases.ts';
import { readJson } from '../../reading/json.ts';
import { changedText } from './changed-text.ts';
import { MADE, proofOf } from './proof.ts';

/**
 * The cases of a module, in a file beside it, and the proof that is made of some of them. Both may be edited by hand, and in several pages at
 * once: what is changed is one case in the text that stands there now, and never a case that has become another since it was read.
 */
export class CasesFile {
  readonly path: string;
  readonly proofPath: string;
  readonly #module: string;
  readonly #defaultRecords: string;

  constructor(module: string, defaultRecords: string) {
    const base = join(dirname(module), basename(module, extname(module)));
    this.path = `${base}.cases.json`;
    this.proofPath = `${base}.cases.proof${extname(module)}`;
    this.#module = module;
    this.#defaultRecords = defaultRecords;
  }

  /** Another text each time that the file is another. */
  get seen(): string {
    const stat = statSync(this.path, { throwIfNoEntry: false });
    return stat ? `${stat.mtimeMs} ${stat.size} ${stat.ino}` : '';
  }

  /** @throws Misuse for a file that is no list of cases */
  read(): readonly CaseRead[] {
    return this.#parsed().cases.map((kept) => ({
      kept: { ...kept, settings: { ...kept.settings, records: this.#recordsOf(kept.settings.records) } },
      read: hashOf(kept),
    }));
  }

  /**
   * Makes changes, each to a case that is still as it was read; the others are told, and nothing of them is written.
   *
   * @throws Misuse where the file is no list of cases, or cannot be written
   */
  change(changes: readonly CaseChange[]): CasesChanged {
    const { text, cases } = this.#parsed();
    const named = (name: string) => cases.find((each) => each.name === name);
    const conflicts = changes.filter(({ name, read = null }) => {
      const now = named(name);
      return (now ? hashOf(now) : null) !== read;
    });
    const made = changes.filter((each) => !conflicts.includes(each));
    const next = made.reduce((before, each) => changedText(before, this.#written(each)), text);
    const broken = made.find(({ name, put }) => put && !isCase(casesIn(next)?.find((each) => each.name === name)));
    if (broken) throw new Misuse(`"${broken.name}" cannot be kept: a case has ${MEMBERS}.`);
    if (made.length > 0) rewrite(this.path, next);
    const problem = made.length > 0 ? this.#writeProof() : undefined;
    return { conflicts: conflicts.map(({ name }) => name), ...(problem !== undefined && { proofProblem: problem }) };
  }

  /** Whether a proof is to be made, and why it is not: what stands there was written by hand. */
  #writeProof(): string | undefined {
    const proofs = this.#parsed().cases.filter(({ isProof, samples = [] }) => isProof || samples.length > 0);
    const isThere = existsSync(this.proofPath);
    if (proofs.length === 0 && !isThere) return undefined;
    if (isThere && !readFileSync(this.proofPath, 'utf8').startsWith(MADE))
      return proofs.length === 0
        ? undefined
        : `${this.proofPath} was not made here, since its first line is another: it was left as it is, and no proof was written. Give it another name to have one.`;
    try {
      rewrite(this.proofPath, proofOf(proofs, { module: this.#module, file: this.path, path: this.proofPath }));
      return undefined;
    } catch (cause) {
      if (cause instanceof Misuse) return cause.message;
      throw cause;
    }
  }

  #parsed(): { readonly text: string; readonly cases: readonly KeptCase[] } {
    if (!existsSync(this.path)) return { text: NONE, cases: [] };
    const text = readFileSync(this.path, 'utf8');
    const read = readJson(text);
    const problem = `${this.path} is no file of cases, and is left as it is`;
    if ('problem' in read) throw new Misuse(`${problem}: it is not JSON (${read.problem}).`);
    const cases = casesIn(text);
    if (!cases?.every(isCase)) throw new Misuse(`${problem}: it holds { "cases": [ … ] }, each of which has ${MEMBERS}.`);
    const names = cases.map(({ name }) => name);
    const twice = names.find((name, at) => names.indexOf(name) < at);
    if (twice !== undefined) throw new Misuse(`${problem}: two of its cases are called "${twice}"; give one of them another name.`);
    return { text, cases };
  }

  #written(change: CaseChange): CaseChange {
    const { settings } = change.put ?? {};
    return settings
      ? { ...change, put: { ...change.put, settings: { ...settings, records: this.#keptRecords(settings.records) } } }
      : change;
  }

  /** A file is named from where the cases are, and a password is not written down. */
  #keptRecords(records: string): string {
    if (records === '' || records === 'module') return records;
    if (isDatabase(records) && records.includes('://')) return withoutPassword(records);
    return relative(dirname(this.path), resolve(records)).replaceAll('\\', '/');
  }

  #recordsOf(records: string): string {
    if (records === '' || records === 'module') return records;
    if (records.includes('://')) return records === withoutPassword(this.#defaultRecords) ? this.#defaultRecords : records;
    return isAbsolute(records) ? records : relative(process.cwd(), resolve(dirname(this.path), records));
  }
}

/** @param text JSON; nothing where it holds no list of cases */
function casesIn(text: string): readonly KeptCase[] | undefined {
  const { cases } = (JSON.parse(text) ?? {}) as { readonly cases?: unknown };
  return Array.isArray(cases) ? cases : undefined;
}

const MEMBERS = '"name", "intake", "submission", "settings" with "records", and "came" with "found"';

/** A file without cases. */
const NONE = '{\n  "cases": []\n}\n';

function isCase(value: unknown): value is KeptCase {
  const { name, intake, settings, came, samples = [] } = (value ?? {}) as Partial<KeptCase>;
  return (
    typeof name === 'string' &&
    typeof intake === 'string' &&
    typeof settings === 'object' &&
    typeof settings?.records === 'string' &&
    Array.isArray(came?.found) &&
    Array.isArray(samples)
  );
}

function hashOf(kept: KeptCase): string {
  return createHash('sha256').update(JSON.stringify(kept)).digest('base64url').slice(0, 16);
}
