import type { ValueUse } from '../declared/rule.ts';
import { type Compare, compareWith, type Fixed, type OtherColumn } from '../stored/where.ts';
import { lessThan, moreThan, type NumberRule } from './range.ts';

/** With a number: a value rule. With a role, `exactly(…)` or `column(…)`: how a look-up compares a column. */
interface Above {
  (limit: number, use?: ValueUse): NumberRule;
  <const P extends string | Fixed<unknown> | OtherColumn<string>>(than: P): Compare<P>;
}

/**
 * More than a number; in a look-up, the column is greater (later) than the value of the role, or of another column.
 *
 * @law More than that number. (With a role’s name it compares a column in a look-up.)
 * @example decimal('Depth', above(0))
 * @holds 0.1
 * @fails 0
 */
export const above: Above = (than: unknown, use?: ValueUse) =>
  (typeof than === 'number' ? moreThan(than, use) : compareWith('above', than)) as never;

/**
 * Less than a number; in a look-up, the column is less (earlier) than the value of the role, or of another column.
 *
 * @law Less than that number. (With a role’s name it compares a column in a look-up.)
 * @example whole('Guests', below(13))
 * @holds 12
 * @fails 13
 */
export const below: Above = (than: unknown, use?: ValueUse) =>
  (typeof than === 'number' ? lessThan(than, use) : compareWith('below', than)) as never;
