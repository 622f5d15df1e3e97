import { type ParseError, parse, printParseErrorCode } from 'jsonc-parser';
import { membersIn, membersOf } from '../../formats/json-members.ts';

/** The value of a JSON text, or where it stops being JSON and why. */
export type ReadJson = { readonly value: unknown } | { readonly problem: string };

/**
 * Parses JSON; a member that stands twice in one object is a mistake (RFC 7493), as it is where requests are received.
 *
 * @param linesBefore of a text that is part of another: lines of that before it, so that a mistake is told by its line there
 */
export function readJson(text: string, linesBefore?: number): ReadJson {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { problem: problemIn(text, linesBefore) };
  }
  return hasDoubles(text, value) ? { problem: 'an object names a member twice' } : { value };
}

/** Every member has a colon. Where there are no more of them than members, none stands twice, and nothing has to be looked at closely. */
function hasDoubles(text: string, value: unknown): boolean {
  const members = membersOf(value);
  let colons = 0;
  for (let at = text.indexOf(':'); at >= 0; at = text.indexOf(':', at + 1)) colons += 1;
  return colons !== members && membersIn(text) !== members;
}

// JSON.parse tells the offset only for some mistakes, so another parser finds the line.
function problemIn(text: string, linesBefore: number | undefined): string {
  if (text.trim() === '') return 'it is empty';
  const errors: ParseError[] = [];
  try {
    parse(text, errors, { disallowComments: true, allowTrailingComma: false });
  } catch {
    return 'it is nested too deeply to find the mistake';
  }
  const [first] = errors;
  if (!first) return 'it holds a character that JSON does not allow';
  const before = text.slice(0, first.offset).split('\n');
  const what = printParseErrorCode(first.error)
    .replaceAll(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase();
  if (linesBefore !== undefined) return `line ${linesBefore + before.length}: ${what}`;
  return `${before.length > 1 || text.includes('\n') ? `line ${before.length}, ` : ''}column ${(before.at(-1) as string).length + 1}: ${what}`;
}
