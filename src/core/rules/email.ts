import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

// "Valid e-mail address" of the WHATWG HTML standard (input type=email).
const ADDRESS =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$/;

const address = valueRule('email', ['text'], {
  check: (value: string) => ADDRESS.test(value),
  message: { en: '{field} must be an e-mail address, such as name@example.org.' },
});

/** An e-mail address as browsers check it (WHATWG HTML, `input type=email`): ASCII, one `@`, no comments. */
export const email = (use?: ValueUse): ValueRule<'text'> => address({}, use);
