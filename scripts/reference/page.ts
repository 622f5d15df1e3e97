import * as jestril from 'jestril';
import { type MemoryData, memoryRecords } from 'jestril/memory';
import { type Entry, run, sectionsOf } from './entries.ts';

/** The clock of the reference page; in Oslo it is 30 April already. */
export const NOW = new Date('2031-04-29T22:30:00Z');

type Judge = (submission: unknown, locale?: string) => Promise<jestril.Verdict<Record<string, unknown>>>;

/** An intake of one field, or of the fields and rules that the code makes. */
export function judgeOf(entry: Entry, more: object = {}): Judge {
  const made = run(entry.code);
  const [fields, rules] = Array.isArray(made) ? (made as [jestril.Fields, never[]]) : [{ value: made as jestril.AnyField }, []];
  const intakeWith = (inside: object) => jestril.intake('reference', fields, { zone: 'Europe/Oslo', rules, ...more, ...inside });
  const records = memoryRecords((entry.records ?? {}) as MemoryData);
  const { changes } = entry;
  if (changes) {
    const [storedIn] = intakeWith({}).collections;
    const intake = intakeWith({ storedIn }) as unknown as {
      amend(stored: object, change: unknown, options: object): ReturnType<Judge>;
    };
    return (change, locale = 'en') => intake.amend(changes.stored, change, { now: NOW, locale, records, itself: changes.itself });
  }
  const intake = intakeWith({}) as unknown as { judge(submission: unknown, options: jestril.Options): ReturnType<Judge> };
  return (submission, locale = 'en') =>
    intake.judge(Array.isArray(made) ? submission : { value: submission }, { now: NOW, locale, records });
}

const all = sectionsOf('src/index.ts');
const isCleaning = ({ title }: { readonly title: string }) => title === 'Cleaning';
export const sections = all.filter((section) => !isCleaning(section));
export const cleaning: readonly Entry[] = all.find(isCleaning)?.entries ?? [];

/** The whole page. */
export async function referencePage(): Promise<string> {
  const rules = await Promise.all(
    sections.map(async ({ title, entries }) => ['', `## ${title}`, ...(await Promise.all(entries.map(entryLines))).flat()]),
  );
  const cleaned = await Promise.all(cleaning.map(cleaningLine));
  return [
    '# Reference',
    '',
    'Every kind, rule and cleaning step: its law, its options, a value that holds, one that fails, and what is then said. This page is made by `npm run reference`; its examples run in the tests. The clock says 30 April 2031.',
    '',
    'Every rule takes, as its last argument, how it is used in this place: `as` (a name), `severity` (`error` or `warning`), `message`, `on` (occasions); a rule between fields also `when` (a condition).',
    ...rules.flat(),
    '',
    '## Cleaning',
    '',
    'Cleaning steps stand in a field’s list, run in the order written and before the rules.',
    '',
    '| step | | received | cleaned |',
    '| --- | --- | --- | --- |',
    ...cleaned,
    '',
    '`removeMarkup` of `jestril/markup` takes HTML tags out and keeps the text; it needs the package htmlparser2.',
    '',
  ].join('\n');
}

async function entryLines(entry: Entry): Promise<string[]> {
  const verdict = await judgeOf(entry)(entry.fails);
  // Versions of ICU differ in which blank stands before AM and PM.
  const message = verdict.outcome === 'rejected' ? verdict.findings[0]?.message.replaceAll('\u202f', ' ') : '';
  return [
    '',
    `### ${entry.name}`,
    '',
    entry.law,
    ...(entry.options
      ? ['', '| option | meaning | default |', '| --- | --- | --- |', ...entry.options.map((option) => `| ${option.join(' | ')} |`)]
      : []),
    '',
    '```ts',
    Array.isArray(run(entry.code)) ? intakeCode(entry.code) : entry.code,
    '```',
    '',
    `- holds: \`${JSON.stringify(entry.holds)}\``,
    `- fails: \`${JSON.stringify(entry.fails)}\`: ${message}`,
  ];
}

/** The fields and rules of an entry as the intake that they are for. */
function intakeCode(code: string): string {
  const [, fields, rules] = /^\[(\{.*\}), (\[.*\])\]$/.exec(code) as RegExpExecArray;
  return `intake('…', ${fields}, { rules: ${rules} })`;
}

async function cleaningLine(entry: Entry): Promise<string> {
  const verdict = await judgeOf(entry)(entry.holds);
  const cleaned = verdict.outcome === 'accepted' ? verdict.value.value : undefined;
  const shown = (value: unknown) =>
    `\`${JSON.stringify(value).replace(/\p{Cc}|\p{Cf}|\p{M}/gu, (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`)}\``;
  return `| \`${entry.name}\` | ${entry.law} | ${shown(entry.holds)} | ${shown(cleaned)} |`;
}
