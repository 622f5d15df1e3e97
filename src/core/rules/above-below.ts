import type { ValueUse } from '../declared/rule.ts';
import { type Compare, compareWith, type Fixed, type OtherColumn } from '../stored/where.ts';
import { type Limit, lessThan, moreThan, type NumberRule } from './range.ts';

/** With a number, which may be text where a number would not be exact: a value rule. With a role, `exactly(…)` or `column(…)`: how a look-up compares a column. */
interface Above {
  (limit: number | `${number}`, use?: ValueUse): NumberRule;
  <const P extends string | Fixed<unknown> | OtherColumn<string>>(than: P): Compare<P>;
}

/** No role is called by a number. */
function isLimit(than: unknown): than is Limit {
  return typeof than === 'number' || (typeof than === 'string' && /^-?[0-9]+(\.[0-9]+)?$/.test(than));
}

/**
 * More than a number; in a look-up, the column is greater (later) than the value of the role, or of another column.
 *
 * @law More than that number. (With a role’s name it compares a column in a look-up.)
 * @example decimal('Depth', above(0))
 * @holds 0.1
 * @fails 0
 */
export const above: Above = (than: unknown, use?: ValueUse) => (isLimit(than) ? moreThan(than, use) : compareWith('above', than)) as never;

/**
 * Less than a number; in a look-up, the column is less (earlier) than the value of the role, or of another column.
 *
 * @law Less than that number. (With a role’s name it compares a column in a look-up.)
 * @example whole('Guests', below(13))
 * @holds 12
 * @fails 13
 */
export const below: Above = (than: unknown, use?: ValueUse) => (isLimit(than) ? lessThan(than, use) : compareWith('below', than)) as never;
