import { runInNewContext } from 'node:vm';
import { whyNotLinear } from '../../../core/patterns/linear.ts';
import type { PatternAsked, PatternTold } from '../../../workbench/wire/judged.ts';

/** Milliseconds that one text may take: long enough for any that is proved, and short enough to show what is not. */
const MOST_TIME = 250;

/** Tells whether an expression takes linear time on every text, and which texts it finds. */
export function tryPattern({ source, flags, texts }: PatternAsked): PatternTold {
  let expression: RegExp;
  try {
    expression = new RegExp(source, flags);
  } catch (cause) {
    const why = (cause as Error).message.replace(/^Invalid regular expression: \/.*\/[a-z]*: /s, '').replace(/^Invalid /, 'invalid ');
    return { state: 'broken', why: `${why}.`, matches: [] };
  }
  const why = /[gy]/.test(flags) ? 'the flags g and y keep a place from one text to the next; take them away.' : whyNotLinear(expression);
  return {
    state: why === undefined ? 'linear' : 'refused',
    ...(why !== undefined && { why }),
    matches: texts.map((text) => tried(expression, text)),
  };
}

function tried({ source, flags }: RegExp, text: string): PatternTold['matches'][number] {
  try {
    const found = runInNewContext(
      'const m = new RegExp(source, flags.replace(/[gy]/g, "")).exec(text); m && [m.index, m[0].length]',
      { source, flags, text },
      { timeout: MOST_TIME },
    ) as [number, number] | null;
    return found ? { text, isMatch: true, from: found[0], to: found[0] + found[1] } : { text, isMatch: false };
  } catch {
    return { text, isMatch: false, problem: `no answer within ${MOST_TIME} ms` };
  }
}
