import { applyEdits, type JSONPath, modify } from 'jsonc-parser';
import type { CaseChange, KeptCase } from '../../../workbench/wire/cases.ts';

/**
 * The text of a file of cases with a change made in it. All else says what it said: other cases, members that nobody knows here, their
 * order, and numbers with more digits than a program reads.
 *
 * @param text JSON in which no case is named twice
 */
export function changedText(text: string, { name, put = null, without = [] }: CaseChange): string {
  const { cases } = JSON.parse(text) as { readonly cases: readonly KeptCase[] };
  const at = cases.findIndex((each) => each.name === name);
  const formattingOptions = styleOf(text);
  const edited = (before: string, path: JSONPath, value: unknown, isArrayInsertion = false) =>
    applyEdits(before, modify(before, path, value, { formattingOptions, isArrayInsertion }));
  if (at < 0) return put === null ? text : edited(text, ['cases', cases.length], { ...put, name }, true);
  if (put === null) return edited(text, ['cases', at], undefined);
  // A case stays what it is called.
  const members = [...without.map((member) => [member, undefined] as const), ...Object.entries({ ...put, name })];
  return members.reduce((before, [member, value]) => edited(before, ['cases', at, member], value), text);
}

/** How a file is written: its first indentation and line break. */
function styleOf(text: string) {
  const [, eol = '\n', indent = '  '] = /(\r?\n)([ \t]+)\S/.exec(text) ?? [];
  return { eol, insertSpaces: !indent.startsWith('\t'), tabSize: indent.startsWith('\t') ? 1 : indent.length };
}
