import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript6';
import { whyNotLinear } from '../../src/core/patterns/linear.ts';

// No regular expression of the library takes more than linear time on a text that somebody else wrote. The proof that `pattern`
// asks for is asked of all of them; those that it does not know are listed with what makes them linear.
const linearAllTheSame = new Map<string, string>([
  ['core/basics/exact.ts /0+$/', 'some hundred digits at most'],
  ['core/messages/parse.ts /[^\\s\\p{Pattern_Syntax}]+/uy', 'the application’s own messages, and sticky'],
  ['core/messages/parse.ts /\\s*/y', 'the application’s own messages, and sticky'],
  ['core/messages/render.ts /\\s+/g', 'what has matched is not tried again'],
  ['core/messages/styles.ts /([A-Za-z])\\1*/g', 'the application’s own messages'],
  ['core/messages/styles.ts /\\s+/', 'the application’s own messages'],
  ['core/basics/moments.ts /0+$/', 'nine digits at most'],
  ['core/cleaning/steps.ts /\\s+/gu', 'what has matched is not tried again'],
  ['core/rules/standards.ts /\\s+/', 'our own lists'],
  ['core/rules/pattern.ts /\\(.*\\)|\\[.*\\]/g', 'expressions of the application’s own'],
  ['drafts/written.ts /[^A-Za-z0-9]+/', 'what has matched is not tried again'],
  ['drafts/written.ts /\\s+/g', 'what has matched is not tried again'],
  ['records/sql/tables/assigned-in.ts /\\bnew\\.["`]?[\\p{L}\\p{N}_$]+["`]?/giu', 'the application’s own triggers'],
  ['published/fields.ts /[^\\p{L}\\p{N}]+/u', 'what has matched is not tried again'],
  ['published/operation.ts /#.*/s', 'it begins once and always matches'],
  ['published/operation.ts /[?#].*$/s', 'it begins once and always matches'],
  ['published/operation.ts /(\\{[^{}]+\\})/', 'it ends at the next brace'],
  ['published/operation.ts /\\{([^{}]+)\\}/g', 'it ends at the next brace'],
  ['forms/names.ts /\\[([^[\\]]*)\\]/g', 'it ends at the next bracket'],
  ['records/sql/checking/covering.ts /[\\p{L}\\p{N}_$]+/gu', 'what has matched is not tried again'],
  ['records/sql/sqlite/inspector.ts /\\)\\s*where\\s/i', 'it begins at a bracket only, and no bracket is a blank'],
  ['cli/reading/columns.ts /\\.\\d+(?=\\.|$)/g', 'it begins at a dot only, and no digit is a dot'],
  ['cli/reading/columns.ts /\\[([^[\\]]*)\\]/g', 'it ends at the next bracket'],
  ['cli/reading/csv.ts /"(?:[^"]|"")*"/g', 'a quote that none follows is the last one'],
  ['cli/reading/csv.ts /^\\s*([^\\r\\n]*)/', 'it begins once and always matches'],
]);

// Rooms that read nothing but what the application's own developers wrote: modules, rules, names, revisions.
const OWN_TEXTS = /^(?:describe|proof|made|compare|cli\/(?!reading\/))/;

test('every expression of the library is linear', () => {
  const unknown = new Set<string>();
  for (const file of readdirSync('src', { recursive: true, encoding: 'utf8' }).filter(
    (name) => name.endsWith('.ts') && !OWN_TEXTS.test(name),
  )) {
    const source = ts.createSourceFile(file, readFileSync(join('src', file), 'utf8'), ts.ScriptTarget.ES2022);
    const visit = (node: ts.Node): void => {
      if (ts.isRegularExpressionLiteral(node)) {
        const end = node.text.lastIndexOf('/');
        const expression = new RegExp(node.text.slice(1, end), node.text.slice(end + 1));
        if (whyNotLinear(expression) !== undefined) unknown.add(`${file} ${node.text}`);
      }
      ts.forEachChild(node, visit);
    };
    visit(source);
  }
  expect([...unknown].sort()).toEqual([...linearAllTheSame.keys()].sort());
});
