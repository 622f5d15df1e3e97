import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { A_REMARK, valueRule } from './value-rule.ts';

// "Valid e-mail address" of the WHATWG HTML standard (input type=email).
const ADDRESS =
  /^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$/;

const address = valueRule('email', ['text'], {
  check: (value: string) => ADDRESS.test(value),
  examples: () => ['ida@fjordmail.example', 'bram@keelpost.example'],
  schema: () => ({ schema: { format: 'email' }, leavesOut: A_REMARK }),
  control: () => ({ type: 'email' }),
  message: { en: '{field} must be an e-mail address, such as name@example.org.' },
});

/**
 * An e-mail address as browsers check it (WHATWG HTML, `input type=email`): ASCII, one `@`, no comments.
 *
 * @law An e-mail address as browsers check it (WHATWG HTML).
 * @example text('E-mail', email())
 * @holds 'ida@fjordmail.example'
 * @fails 'ida@'
 */
export const email = (use?: ValueUse): ValueRule<'text'> => address({}, use);
