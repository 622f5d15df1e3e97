import { literal, quoted, type Writing } from '../tables/writing.ts';

export const sqliteWriting: Writing = {
  quote: quoted,
  types: {
    integer: 'integer',
    real: 'real',
    numeric: 'numeric',
    boolean: 'integer',
    date: 'text',
    timestamp: 'text',
    time: 'text',
    json: 'text',
  },
  text: () => ({ type: 'text', keepsLength: false }),
  precise: () => 'numeric',
  counted: 'integer',
  length: 'length',
  literal: (value) => literal(typeof value === 'boolean' ? Number(value) : value),
};
