import { type Compare, compareWith, type Fixed, type OtherColumn } from '../stored/where.ts';
import { lessThan, moreThan, type NumberRule } from './range.ts';
import type { ValueUse } from './use.ts';

/** With a number: a value rule. With a role, `exactly(…)` or `column(…)`: how a look-up compares a column. */
interface Above {
  (limit: number, use?: ValueUse): NumberRule;
  <const P extends string | Fixed<unknown> | OtherColumn<string>>(than: P): Compare<P>;
}

/** More than a number; in a look-up, the column is greater (later) than the value of the role, or of another column. */
export const above: Above = (than: unknown, use?: ValueUse) =>
  (typeof than === 'number' ? moreThan(than, use) : compareWith('above', than)) as never;

/** Less than a number; in a look-up, the column is less (earlier) than the value of the role, or of another column. */
export const below: Above = (than: unknown, use?: ValueUse) =>
  (typeof than === 'number' ? lessThan(than, use) : compareWith('below', than)) as never;
