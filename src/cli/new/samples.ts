import { type BuiltIntake, builtIntake } from '../../drafts/built.ts';
import { type Call, type IntakeDraft, Name } from '../../drafts/draft.ts';
import { constantOf, property, quoted } from '../../drafts/written.ts';
import { Maker } from '../../made/index.ts';

/** Something that an intake refuses, by these uses. */
export interface Refusal {
  readonly submission: { readonly [key: string]: unknown };
  readonly by: readonly string[];
}

/** Submissions that were made and judged. */
export interface Samples {
  /** `undefined` where none could be made that is written as JSON. */
  readonly good: { readonly [key: string]: unknown } | undefined;
  readonly bad: readonly Refusal[];
  /** What the store holds, where rules ask it. */
  readonly stored: { readonly [collection: string]: readonly object[] };
}

/** Makes a submission that is accepted, and for each rule one that it alone refuses. */
export async function samplesOf(draft: IntakeDraft): Promise<Samples> {
  const asksStore = ({ args }: Call) => args[0] instanceof Name;
  const rules = draft.rules.filter((rule) => !asksStore(rule));
  const intake: BuiltIntake = builtIntake({ ...draft, rules, collections: [] });
  const maker = new Maker(intake, {});
  const good = (await maker.accepted())?.situation.submission;
  if (!good || JSON.stringify(JSON.parse(JSON.stringify(good))) !== JSON.stringify(good) || hasFile(draft))
    return { good: undefined, bad: [], stored: {} };
  const bad: Refusal[] = [];
  for (const { use } of maker.uses) {
    const made = await maker.rejectedBy(use);
    if (made?.verdict.outcome !== 'rejected') continue;
    bad.push({ submission: made.situation.submission, by: [...new Set(made.verdict.findings.map((finding) => finding.use))] });
  }
  return storedSamples(draft, maker, good, bad);
}

function hasFile({ fields }: IntakeDraft): boolean {
  return JSON.stringify(fields).includes('"kind":"upload"');
}

/** What is stored so that the good submission is accepted, and others are not. */
function storedSamples(
  { rules, collections = [] }: IntakeDraft,
  maker: Maker,
  good: Refusal['submission'],
  bad: readonly Refusal[],
): Samples {
  const stored: { [collection: string]: object[] } = {};
  const refused = [...bad];
  // Another value that the field accepts by itself.
  const another = (field: string): unknown => {
    const step = maker.plan.fields.steps.find(({ key }) => key === field);
    return step && !step.sort.isMade ? maker.valuesOf(step).good.find((value) => value !== good[field]) : undefined;
  };
  for (const { call, args } of rules) {
    const [name, columns = {}] = args as [Name | undefined, { readonly [column: string]: string } | undefined];
    const collection = name instanceof Name ? collections.find(({ constant }) => constant === name.name) : undefined;
    if (!collection) continue;
    const pairs = Object.entries(columns);
    const others = pairs.map(([column, field]) => ({ column, field, value: another(field) }));
    if (others.some(({ value }) => value === undefined)) continue;
    const isKnown = call === 'known';
    const row = isKnown ? pairs.map(([column, field]) => [column, good[field]]) : others.map(({ column, value }) => [column, value]);
    const rows = stored[collection.name] ?? [];
    stored[collection.name] = rows;
    if (row.every(([, value]) => value !== undefined))
      rows.push({ ...Object.fromEntries(Object.keys(collection.columns).map((column) => [column, null])), ...Object.fromEntries(row) });
    const fields = Object.fromEntries(others.map(({ field, value }) => [field, value]));
    refused.push({ submission: { ...good, ...fields }, by: [`${isKnown ? 'known' : 'unique'}@${pairs[0]?.[1]}`] });
  }
  return { good, bad: refused, stored };
}

/** The proof of an intake, as a module beside it. */
export function writtenProof(name: string, { good, bad, stored }: Samples): string {
  const constant = constantOf(name);
  const hasStored = Object.keys(stored).length > 0;
  const imports = [
    ...(hasStored ? ["import { memoryRecords } from 'jestril/memory';"] : []),
    "import type { Subject } from 'jestril/proof';",
    `import { ${constant} } from './${name}.ts';`,
  ];
  const options = hasStored ? `\n    options: { records: memoryRecords(${literal(stored, 2)}) },` : '';
  if (!good)
    return `${imports.join('\n')}\n\n// Write what is accepted, and for each rule what it refuses: "by" names the rules.\nexport const proofs: readonly Subject[] = [{ intake: ${constant}, accepts: [], rejects: [] }];\n`;
  const rejects = bad.map(
    ({ submission, by }) => `      { submission: ${changed(good, submission)}, by: [${by.map(quoted).join(', ')}] },\n`,
  );
  return `${imports.join('\n')}

// What ${name} accepts, and what each of its rules refuses.
const good = ${literal(good, 0)};

export const proofs: readonly Subject[] = [
  {
    intake: ${constant},${options}
    accepts: [good],
    rejects: [
${rejects.join('')}    ],
  },
];
`;
}

/** A submission as what differs from the good one. */
function changed(good: { readonly [key: string]: unknown }, other: { readonly [key: string]: unknown }): string {
  const keys = [...new Set([...Object.keys(good), ...Object.keys(other)])];
  const parts = keys
    .filter((key) => JSON.stringify(good[key]) !== JSON.stringify(other[key]))
    .map((key) => `${property(key)}: ${Object.hasOwn(other, key) ? literal(other[key], 3) : 'undefined'}`);
  return `{ ...good, ${parts.join(', ')} }`;
}

const WIDTH = 100;

function literal(value: unknown, depth: number): string {
  const flat = flatLiteral(value);
  if (typeof value !== 'object' || value === null || flat.length + depth * 2 <= WIDTH) return flat;
  const inner = '  '.repeat(depth + 1);
  const parts = Array.isArray(value)
    ? value.map((each) => literal(each, depth + 1))
    : Object.entries(value).map(([key, each]) => `${property(key)}: ${literal(each, depth + 1)}`);
  const [open, close] = Array.isArray(value) ? ['[', ']'] : ['{', '}'];
  return `${open}\n${parts.map((part) => `${inner}${part},\n`).join('')}${'  '.repeat(depth)}${close}`;
}

function flatLiteral(value: unknown): string {
  if (typeof value === 'string') {
    // What is long for its own sake is not written out.
    const [first = ''] = value;
    return value.length > 40 && value === first.repeat(value.length) ? `${quoted(first)}.repeat(${value.length})` : quoted(value);
  }
  if (Array.isArray(value)) {
    const period = value.length > 8 ? periodOf(value) : undefined;
    if (period?.length === 1) return `new Array(${value.length}).fill(${flatLiteral(period[0])})`;
    if (period) return `Array.from({ length: ${value.length} }, (_, at) => [${period.map(flatLiteral).join(', ')}][at % ${period.length}])`;
    return `[${value.map(flatLiteral).join(', ')}]`;
  }
  if (typeof value === 'object' && value !== null) {
    const parts = Object.entries(value).map(([key, each]) => `${property(key)}: ${flatLiteral(each)}`);
    return parts.length === 0 ? '{}' : `{ ${parts.join(', ')} }`;
  }
  return String(value);
}

/** The entries that come again and again; `undefined` where none do. */
function periodOf(list: readonly unknown[]): readonly unknown[] | undefined {
  const texts = list.map((each) => JSON.stringify(each));
  const size = [1, 2, 3, 4, 5, 6, 7, 8].find((period) => texts.every((text, at) => text === texts[at % period]));
  return size === undefined ? undefined : list.slice(0, size);
}
