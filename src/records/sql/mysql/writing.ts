import { literal, type Writing } from '../tables/writing.ts';

export const backquoted = (name: string): string => `\`${name.replaceAll('`', '``')}\``;

/** Characters that a VARCHAR holds at most, of up to four bytes each; the row has to hold others besides. */
const LONGEST = 16_000;

export const mysqlWriting: Writing = {
  quote: backquoted,
  types: {
    integer: 'bigint',
    real: 'double',
    numeric: 'decimal(38, 10)',
    boolean: 'boolean',
    date: 'date',
    timestamp: 'datetime(3)',
    time: 'time',
    json: 'json',
  },
  text: (most = 255) => (most <= LONGEST ? { type: `varchar(${most})`, keepsLength: true } : { type: 'longtext', keepsLength: false }),
  precise: (whole, places) => `decimal(${whole + places}, ${places})`,
  counted: 'bigint auto_increment',
  length: 'char_length',
  // A backslash is a letter in the standard, and not here.
  literal: (value) => literal(typeof value === 'string' ? value.replaceAll('\\', '\\\\') : value),
};
