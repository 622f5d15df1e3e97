import { fault } from '../fault.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

interface Takes {
  readonly part: string;
  readonly ignoringCase: boolean;
}
interface Options {
  /** Upper and lower case count as the same. Defaults to false. */
  readonly ignoringCase?: boolean;
}
type TextRule = ValueRule<'text'>;

function partly(id: string, test: (value: string, part: string) => boolean, message: string) {
  return valueRule(id, ['text'], {
    check: (value: string, { part, ignoringCase }: Takes) =>
      ignoringCase ? test(value.toLowerCase(), part.toLowerCase()) : test(value, part),
    facts: ({ part }) => ({ part }),
    factNames: ['part'],
    refuses({ part }) {
      if (typeof part !== 'string' || part === '') fault(`${id} needs a text to look for.`);
    },
    message: { en: message },
  });
}

const containing = partly('contains', (value, part) => value.includes(part), '{field} must contain “{part}”.');
const lacking = partly('without', (value, part) => !value.includes(part), '{field} must not contain “{part}”.');
const starting = partly('starts-with', (value, part) => value.startsWith(part), '{field} must start with “{part}”.');
const ending = partly('ends-with', (value, part) => value.endsWith(part), '{field} must end with “{part}”.');

/** Text with this part in it. */
export const contains = (part: string, { ignoringCase = false }: Options = {}, use?: ValueUse): TextRule =>
  containing({ part, ignoringCase }, use);

/** Text without this part, such as a forbidden word. */
export const without = (part: string, { ignoringCase = false }: Options = {}, use?: ValueUse): TextRule =>
  lacking({ part, ignoringCase }, use);

/** Text that starts so. */
export const startsWith = (part: string, { ignoringCase = false }: Options = {}, use?: ValueUse): TextRule =>
  starting({ part, ignoringCase }, use);

/** Text that ends so. */
export const endsWith = (part: string, { ignoringCase = false }: Options = {}, use?: ValueUse): TextRule =>
  ending({ part, ignoringCase }, use);
