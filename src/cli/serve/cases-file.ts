import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { basename, dirname, extname, isAbsolute, join, relative, resolve } from 'node:path';
import { property, quoted } from '../../drafts/written.ts';
import type { KeptCase, Settings } from '../../workbench/wire.ts';
import { Misuse } from '../basics/misuse.ts';
import { withoutPassword } from '../databases/address.ts';
import { isDatabase } from '../databases/databases.ts';
import { readJson } from '../reading/json.ts';

/** The cases of a module, in a file beside it, and the proof that is made of some of them. */
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

  /** @throws Misuse for a file that is no list of cases */
  read(): readonly KeptCase[] {
    if (!existsSync(this.path)) return [];
    const read = readJson(readFileSync(this.path, 'utf8'));
    const problem = `${this.path} is no file of cases`;
    if ('problem' in read) throw new Misuse(`${problem}: it is not JSON (${read.problem}).`);
    const { cases } = (read.value ?? {}) as { readonly cases?: readonly KeptCase[] };
    if (!Array.isArray(cases) || !cases.every(isCase))
      throw new Misuse(`${problem}; it holds { "cases": [{ "name", "intake", "submission", "settings", "came" }] }.`);
    return cases.map((kept) => ({ ...kept, settings: { ...kept.settings, records: this.#recordsOf(kept.settings.records) } }));
  }

  /** Writes all of them, and the proof of those that are one. */
  write(cases: readonly KeptCase[]): void {
    const kept = cases.map((each) => ({ ...each, settings: { ...each.settings, records: this.#keptRecords(each.settings.records) } }));
    writeWhole(this.path, `${JSON.stringify({ cases: kept }, null, 2)}\n`);
    const proofs = kept.filter(({ isProof, samples = [] }) => isProof || samples.length > 0);
    if (proofs.length > 0 || existsSync(this.proofPath)) writeWhole(this.proofPath, this.#proof(proofs));
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

  #proof(cases: readonly KeptCase[]): string {
    const typed = (type: string) => (/\.[cm]?ts$/.test(this.proofPath) ? `: ${type}` : '');
    const intakes = [...new Set(cases.map(({ intake }) => intake))];
    const readsFiles = cases.some(({ isProof, settings: { records } }) => isProof && records !== '' && records !== 'module');
    const hasSamples = cases.some(({ samples = [] }) => samples.length > 0);
    const ofProof = [...(hasSamples ? ['ruleOf'] : []), ...(typed('') === '' ? [] : ['type Subject'])];
    return [
      `// Made by \`jestril serve\` of cases in ${basename(this.path)}, and made again whenever one of them changes: edit that file, not this one.`,
      ...(readsFiles ? ["import { readFileSync } from 'node:fs';"] : []),
      "import { isIntake } from 'jestril';",
      ...(readsFiles ? ["import { memoryRecords } from 'jestril/memory';"] : []),
      ...(ofProof.length > 0 ? [`import { ${ofProof.join(', ')} } from 'jestril/proof';`] : []),
      `import * as module from './${basename(this.#module)}';`,
      '',
      ...(readsFiles
        ? [`const recordsIn = (file${typed('string')}) => memoryRecords(JSON.parse(readFileSync(new URL(file, import.meta.url), 'utf8')));`]
        : []),
      `const named = (name${typed('string')}) => {`,
      '  const found = Object.values(module).find((each) => isIntake(each) && each.name === name);',
      "  if (!isIntake(found)) throw new Error('The module has no intake named ' + name);",
      '  return found;',
      '};',
      ...intakes.map((name, at) => `const intake${at + 1} = named(${quoted(name)});`),
      '',
      `export const proofs${typed('readonly Subject[]')} = [`,
      ...cases.flatMap((kept) => subjectsOf(kept, `intake${intakes.indexOf(kept.intake) + 1}`)),
      '];',
      '',
    ].join('\n');
  }
}

function isCase(value: unknown): value is KeptCase {
  const { name, intake, settings, came } = (value ?? {}) as Partial<KeptCase>;
  return typeof name === 'string' && typeof intake === 'string' && typeof settings === 'object' && Array.isArray(came?.found);
}

function subjectsOf(kept: KeptCase, intake: string): string[] {
  const lines = [`  // ${kept.name.replaceAll(/\s+/g, ' ')}`];
  if (kept.isProof) {
    const { came, stored, itself, submission } = kept;
    const by =
      came.outcome === 'rejected'
        ? [...new Set(came.found.filter((each) => !each.endsWith(' (warning)')).map((each) => each.split(' ')[0]))]
        : [];
    const change = { stored, change: submission, by, ...(itself !== undefined && { options: { itself } }) };
    const accepts = stored === undefined && came.outcome === 'accepted' ? [submission] : [];
    const rejects = stored === undefined && came.outcome === 'rejected' ? [{ submission, by }] : [];
    lines.push(
      '  {',
      `    intake: ${intake},`,
      `    options: ${optionsOf(kept.settings)},`,
      `    accepts: ${literal(accepts)},`,
      `    rejects: ${literal(rejects)},`,
      ...(stored === undefined ? [] : [`    changes: ${literal([change])},`]),
      '  },',
    );
  }
  for (const { rule, holds, sample } of kept.samples ?? [])
    lines.push(`  { rule: ruleOf(${intake}, ${quoted(rule)}), samples: { ${holds ? 'holds' : 'fails'}: [${literal(sample)}] } },`);
  return lines;
}

function optionsOf({ now, occasion, as, given, records }: Omit<Settings, 'given'> & { readonly given?: unknown }): string {
  const parts = [
    ...(now === undefined ? [] : [`now: new Date(${quoted(now)})`]),
    ...(occasion === undefined ? [] : [`occasion: ${quoted(occasion)}`]),
    ...(as === 'form' ? ["as: 'form'"] : []),
    ...(given === undefined ? [] : [`given: ${literal(given)}`]),
    ...(records === 'module' ? ['records: module.records'] : records === '' ? [] : [`records: recordsIn(${quoted(records)})`]),
  ];
  return parts.length === 0 ? '{}' : `{ ${parts.join(', ')} }`;
}

/** A JSON value as it stands in a program. */
function literal(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(literal).join(', ')}]`;
  if (typeof value === 'string') return quoted(value);
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'undefined';
  const members = Object.entries(value).map(([key, inner]) => `${property(key)}: ${literal(inner)}`);
  return members.length === 0 ? '{}' : `{ ${members.join(', ')} }`;
}

/** Writes a file so that nobody ever reads half of it. */
function writeWhole(path: string, text: string): void {
  const beside = `${path}.writing`;
  try {
    writeFileSync(beside, text);
    renameSync(beside, path);
  } catch (cause) {
    throw new Misuse(`${path} cannot be written: ${(cause as Error).message}.`);
  }
}
