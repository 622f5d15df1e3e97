import type { Want } from '../declared/look-up.ts';

const isNumber = (answer: unknown) => Number.isSafeInteger(answer) && (answer as number) >= 0;
const isRow = (row: unknown) => typeof row === 'object' && row !== null && !Array.isArray(row);

/** Whether a store has answered a key with what was wanted; anything else decides nothing. */
export const IS_ANSWER: { readonly [W in Want]: (answer: unknown) => boolean } = {
  rows: (answer) => Array.isArray(answer) && answer.every(isRow),
  count: isNumber,
  exists: isNumber,
  sum: (answer) => answer === null || ['number', 'string', 'bigint'].includes(typeof answer),
};
