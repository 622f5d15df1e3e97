import { basename } from 'node:path';
import { property, quoted } from '../../../drafts/written.ts';
import type { Settings } from '../../../workbench/wire/asked.ts';
import type { KeptCase } from '../../../workbench/wire/cases.ts';

/** How the first line of a proof begins that was made here: any other file was written by somebody. */
export const MADE = '// Made by `jestril serve` of cases in ';

/** The proof that is made of cases, as a module beside the one that it is about. */
export function proofOf(
  cases: readonly KeptCase[],
  { module, file, path }: { readonly module: string; readonly file: string; readonly path: string },
): string {
  const typed = (type: string) => (/\.[cm]?ts$/.test(path) ? `: ${type}` : '');
  const intakes = [...new Set(cases.map(({ intake }) => intake))];
  const readsFiles = cases.some(({ isProof, settings: { records } }) => isProof && records !== '' && records !== 'module');
  const hasSamples = cases.some(({ samples = [] }) => samples.length > 0);
  const ofProof = [...(hasSamples ? ['ruleOf'] : []), ...(typed('') === '' ? [] : ['type Subject'])];
  return [
    `${MADE}${basename(file)}, and made again whenever one of them is changed there: edit that file, not this one.`,
    ...(readsFiles ? ["import { readFileSync } from 'node:fs';"] : []),
    "import { isIntake } from 'jestril';",
    ...(readsFiles ? ["import { memoryRecords } from 'jestril/memory';"] : []),
    ...(ofProof.length > 0 ? [`import { ${ofProof.join(', ')} } from 'jestril/proof';`] : []),
    `import * as module from ${quoted(`./${basename(module)}`)};`,
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
