import * as jestril from 'jestril';
import { run } from './entries.ts';

/** A field of every kind, as code. */
const FIELDS = [
  "text('F')",
  "whole('F')",
  "decimal('F')",
  "exact('F')",
  "flag('F')",
  "choice('F', ['0', 7])",
  "day('F')",
  "moment('F')",
  "timeOfDay('F')",
  "list('F', text('I'))",
  "table('F', text('I'))",
  "group('F', { a: text('A').orAbsent() })",
  "oneOfShapes('F', 'how', { a: shape({}) })",
  "jsonValue('F')",
  "upload('F')",
];

const MISSING = Symbol('missing');
const TEXTS = ['', ' ', '0', 'on', '1e3', '1,5', ' 7 ', '007'];
const FROM_JSON: readonly unknown[] = [...TEXTS, 0, true, null, [], {}, MISSING];
const FROM_FORM: readonly unknown[] = [...TEXTS, ['0', '7'], MISSING];

function headOf(raw: unknown): string {
  if (raw === MISSING) return 'missing';
  return Array.isArray(raw) && raw.length > 0 ? 'the key twice' : `\`${JSON.stringify(raw)}\``;
}

/** What a reading gives: the value, or the finding in italics. */
function cellOf(field: jestril.AnyField, raw: unknown, as: 'json' | 'form'): string {
  const form = jestril.intake('readings', { value: field }) as unknown as {
    judgeLocally(submission: unknown, options: object): jestril.Verdict<{ value?: unknown }>;
  };
  const verdict = form.judgeLocally(raw === MISSING ? {} : { value: raw }, { as });
  if (verdict.outcome === 'accepted') return `\`${JSON.stringify(verdict.value.value)}\``;
  return verdict.outcome === 'rejected' ? `_${verdict.findings[0]?.rule}_` : '?';
}

function tableOf(as: 'json' | 'form', raws: readonly unknown[]): string[] {
  return [
    `| | ${raws.map(headOf).join(' | ')} |`,
    `| --- |${raws.map(() => ' --- |').join('')}`,
    ...FIELDS.map((code) => `| \`${code}\` | ${raws.map((raw) => cellOf(run(code) as jestril.AnyField, raw, as)).join(' | ')} |`),
  ];
}

/** Both tables, for the page on reading. */
export function readings(): string {
  return [
    '### From JSON',
    '',
    ...tableOf('json', FROM_JSON),
    '',
    '### From a form, a query string or a CSV file',
    '',
    ...tableOf('form', FROM_FORM),
  ].join('\n');
}

const MARK = '<!-- made by npm run reference -->';

/** The page with its tables made anew, between two marks. */
export function withReadings(page: string): string {
  const [before, , after] = page.split(MARK);
  return [before, `\n\n${readings()}\n\n`, after].join(MARK);
}
