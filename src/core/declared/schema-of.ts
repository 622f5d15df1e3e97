import type { KindSpec } from './kind.ts';
import type { Definition, Takes } from './rule.ts';
import type { SchemaWords } from './schema-words.ts';

/** What JSON Schema says of a value rule, by itself or by its expression; `undefined` where it can say nothing. */
export function schemaOf(rule: Definition, takes: Takes, kind: KindSpec): SchemaWords | undefined {
  const said = rule.schema?.(takes, kind);
  const expression = said ? undefined : rule.matches?.(takes);
  return expression ? patternOf(expression) : said;
}

/** Whether the expression means the same with the flag u, with which a pattern is read (JSON Schema core, 6.4). */
function patternOf({ source, flags }: RegExp): SchemaWords | undefined {
  if (flags !== '' && flags !== 'u') return undefined;
  try {
    new RegExp(source, 'u');
  } catch {
    return undefined;
  }
  // Without u a character beyond U+FFFF counts as two, which shows in what stands for any character.
  const isAnyUnit = flags === '' && /\.|\[\^|\\[DSW]/.test(source.replaceAll(/\\\./g, ''));
  return { schema: { pattern: source }, ...(isAnyUnit && { leavesOut: 'characters beyond U+FFFF, which it counts once' }) };
}
