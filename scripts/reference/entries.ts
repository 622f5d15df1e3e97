import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import * as jestril from 'jestril';
import ts from 'typescript6';

// The reference is written beside the code: a kind, rule or cleaning step says in its docstring what must hold, and by tags
//
//   @law      the same, where the docstring says more than the reference needs
//   @option   name | meaning | default
//   @example  the code of a field, or of the fields and rules of an intake; it is run
//   @holds, @fails   what it is tried with
//   @stored   rows by collection, for rules that ask them
//   @changes  the examples are changes to this record, which is kept in the first collection
//
// It stands in the section that its export line stands in, in src/index.ts.

/** One kind, cleaning step or rule of the reference page. */
export interface Entry {
  readonly name: string;
  /** What must hold. */
  readonly law: string;
  /** Option, meaning, default. */
  readonly options?: readonly (readonly string[])[];
  readonly code: string;
  readonly holds: unknown;
  readonly fails: unknown;
  readonly records?: { readonly [collection: string]: readonly object[] };
  readonly changes?: { readonly stored: object; readonly itself: object };
}

export interface Section {
  readonly title: string;
  readonly entries: readonly Entry[];
}

/** Runs code of an entry, with everything that the library exports in scope. */
export function run(code: string): unknown {
  return new Function(...Object.keys(jestril), `return ${code};`)(...Object.values(jestril));
}

/** The sections of the page, in the order of the exports. */
export function sectionsOf(index: string): Section[] {
  const sections: { title: string; entries: Entry[] }[] = [];
  for (const line of readFileSync(index, 'utf8')
    .replaceAll(/\{\n([^}]*)\}/g, (all) => all.replaceAll('\n', ' '))
    .split('\n')) {
    const heading = /^\/\/ (.*)/.exec(line)?.[1];
    if (heading !== undefined) sections.push({ title: heading[0]?.toUpperCase() + heading.slice(1), entries: [] });
    const [, names = '', from = ''] = /^export \{([^}]*)\} from '([^']+)'/.exec(line) ?? [];
    const file = join(dirname(index), from);
    for (const name of names.split(',').map((each) => each.trim())) {
      if (name === '' || name.startsWith('type ')) continue;
      const entry = entryOf(name, docOf(file, name));
      if (entry) sections.at(-1)?.entries.push(entry);
    }
  }
  return sections.filter(({ entries }) => entries.length > 0);
}

/** The docstring before what a file exports under a name. */
function docOf(file: string, name: string): string {
  const text = readFileSync(file, 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.ES2022, true);
  const declared = source.statements.find(
    (statement) =>
      (ts.isVariableStatement(statement) && statement.declarationList.declarations.some((each) => each.name.getText() === name)) ||
      (ts.isFunctionDeclaration(statement) && statement.name?.text === name),
  );
  const comment = declared && ts.getLeadingCommentRanges(text, declared.pos)?.at(-1);
  return comment ? text.slice(comment.pos, comment.end) : '';
}

function entryOf(name: string, doc: string): Entry | undefined {
  const lines = doc
    .replace(/^\/\*\*/, '')
    .replace(/\*\/$/, '')
    .split('\n')
    .map((line) => line.replace(/^\s*\* ?/, ''));
  const text = lines
    .slice(
      0,
      lines.findIndex((line) => line.startsWith('@')),
    )
    .join(' ')
    .trim();
  const all = (tag: string) => lines.flatMap((line) => (line.startsWith(`@${tag} `) ? [line.slice(tag.length + 2)] : []));
  const [code] = all('example');
  if (code === undefined) return undefined;
  const value = (tag: string) => run(all(tag)[0] ?? 'undefined');
  const options = all('option').map((option) => option.split(' | '));
  const [stored] = all('stored');
  const [changes] = all('changes');
  return {
    name,
    law: all('law')[0] ?? text,
    ...(options.length > 0 && { options }),
    code,
    holds: value('holds'),
    fails: value('fails'),
    ...(stored !== undefined && { records: JSON.parse(stored) }),
    ...(changes !== undefined && { changes: JSON.parse(changes) }),
  };
}
