import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import type { JsonSchema } from '../declared/schema-words.ts';
import { valueRule } from './value-rule.ts';

interface PartTakes {
  readonly part: string;
  readonly ignoringCase: boolean;
}
interface PartOptions {
  /** Upper and lower case count as the same. Defaults to false. */
  readonly ignoringCase?: boolean;
}

function takesOf(maker: string, part: string, options: PartOptions): PartTakes {
  const { ignoringCase = false } = optionsOf(maker, options, ['ignoringCase']);
  return { part, ignoringCase };
}

/** What of a text stands for itself in an expression. */
function escaped(text: string): string {
  return text.replaceAll(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');
}

function partly(
  id: string,
  test: (value: string, part: string) => boolean,
  message: string,
  { schema, example }: { readonly schema: (part: string) => JsonSchema; readonly example: (part: string) => string },
) {
  return valueRule(id, ['text'], {
    check: (value: string, { part, ignoringCase }: PartTakes) =>
      ignoringCase ? test(value.toLowerCase(), part.toLowerCase()) : test(value, part),
    examples: ({ part }) => [example(part), 'Dune 42', `x${part}x`],
    schema: ({ part, ignoringCase }) => (ignoringCase ? undefined : { schema: schema(escaped(part)) }),
    facts: ({ part }) => ({ part }),
    factNames: ['part'],
    refuses({ part }) {
      if (typeof part !== 'string' || part === '') fault(`${id} needs a text to look for.`);
    },
    message: { en: message },
  });
}

const containing = partly('contains', (value, part) => value.includes(part), '{field} must contain “{part}”.', {
  schema: (part) => ({ pattern: part }),
  example: (part) => part,
});
const lacking = partly('without', (value, part) => !value.includes(part), '{field} must not contain “{part}”.', {
  schema: (part) => ({ not: { pattern: part } }),
  example: () => 'Dune 42',
});
const starting = partly('starts-with', (value, part) => value.startsWith(part), '{field} must start with “{part}”.', {
  schema: (part) => ({ pattern: `^${part}` }),
  example: (part) => `${part}x`,
});
const ending = partly('ends-with', (value, part) => value.endsWith(part), '{field} must end with “{part}”.', {
  schema: (part) => ({ pattern: `${part}$` }),
  example: (part) => `x${part}`,
});

/**
 * Text with this part in it.
 *
 * @law The part is in the text.
 * @option ignoringCase | upper and lower case count as the same | false
 * @example text('Notes', contains('pier'))
 * @holds 'near the pier'
 * @fails 'near the quay'
 */
export const contains = (part: string, options: PartOptions = {}, use?: ValueUse): TextRule =>
  containing(takesOf('contains', part, options), use);

/**
 * Text without this part, such as a forbidden word.
 *
 * @law The part is not in the text.
 * @option ignoringCase | upper and lower case count as the same | false
 * @example text('Passphrase', without('marina', { ignoringCase: true }))
 * @holds 'gulls'
 * @fails 'My Marina'
 */
export const without = (part: string, options: PartOptions = {}, use?: ValueUse): TextRule =>
  lacking(takesOf('without', part, options), use);

/**
 * Text that starts so.
 *
 * @law The text starts so.
 * @option ignoringCase | upper and lower case count as the same | false
 * @example text('Mark', startsWith('PW-'))
 * @holds 'PW-2040'
 * @fails '2040'
 */
export const startsWith = (part: string, options: PartOptions = {}, use?: ValueUse): TextRule =>
  starting(takesOf('startsWith', part, options), use);

/**
 * Text that ends so.
 *
 * @law The text ends so.
 * @option ignoringCase | upper and lower case count as the same | false
 * @example text('File', endsWith('.pdf', { ignoringCase: true }))
 * @holds 'a.PDF'
 * @fails 'a.png'
 */
export const endsWith = (part: string, options: PartOptions = {}, use?: ValueUse): TextRule =>
  ending(takesOf('endsWith', part, options), use);
