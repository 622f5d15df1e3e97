/** The columns that the body of a trigger assigns: `NEW.email := …;`, `set new.email = …`. A comparison is no assignment. */
export function assignedIn(body: string): string[] {
  const columns: string[] = [];
  for (const { index, 0: named } of body.matchAll(NAMED)) {
    const before = body.slice(Math.max(0, index - LONGEST_BEFORE), index).trimEnd();
    const after = body.slice(index + named.length, index + named.length + LONGEST_BEFORE).trimStart();
    if (BEGINS.test(before) && /^:?=/.test(after)) columns.push(named.slice('new.'.length).replaceAll(/["`]/g, ''));
  }
  return columns;
}
const NAMED = /\bnew\.["`]?[\p{L}\p{N}_$]+["`]?/giu;
/** What an assignment follows. */
const BEGINS = /(?:^|;|,|begin|then|else|set|loop)$/i;
/** Blanks, and a word. */
const LONGEST_BEFORE = 40;
