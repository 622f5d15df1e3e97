import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript6';

const MARK = '<!-- made by npm run reference -->';

/** Where a fault comes from, by the folder that it stands in; the first that fits. */
const SECTIONS: readonly (readonly [folder: RegExp, title: string])[] = [
  [/^core\/(kinds|cleaning)\//, 'Kinds, fields and cleaning'],
  [/^core\/patterns\/|^formats\//, 'Formats'],
  [/^core\/rules\//, 'Rules and conditions'],
  [/^core\/stored\//, 'Collections and look-ups'],
  [/^core\/(messages|languages)/, 'Messages'],
  [/^core\/(compile|declared|plan|intake|generated)/, 'Intakes'],
  [/^core\//, 'Judging'],
  [/^records\//, 'Stores'],
  [/^http\//, 'Requests'],
  [/^(forms|browser)\//, 'Forms'],
  [/^proof\//, 'Proof'],
  [/^(describe|compare|made|published|drafts)\//, 'Descriptions'],
];

/** The page of faults with its lists made anew. */
export function withFaults(page: string): string {
  const bySection = new Map<string, Set<string>>(SECTIONS.map(([, title]) => [title, new Set()]));
  const files = readdirSync('src', { recursive: true, encoding: 'utf8' }).filter(
    (name) => name.endsWith('.ts') && !name.startsWith('cli/'),
  );
  for (const file of files.sort())
    for (const sentence of sentencesIn(file)) {
      const title = SECTIONS.find(([folder]) => folder.test(file))?.[1];
      if (title === undefined) throw new Error(`${file} has faults, and no section of docs/faults.md.`);
      bySection.get(title)?.add(sentence);
    }
  const lists = [...bySection]
    .filter(([, sentences]) => sentences.size > 0)
    .map(([title, sentences]) => `### ${title}\n\n${[...sentences].map((sentence) => `- ${escaped(sentence)}`).join('\n')}\n`);
  return `${page.slice(0, page.indexOf(MARK))}${MARK}\n\n${lists.join('\n')}`;
}

/** What is thrown in a file, with ‹…› for what is filled in. */
function sentencesIn(file: string): string[] {
  const source = ts.createSourceFile(file, readFileSync(join('src', file), 'utf8'), ts.ScriptTarget.ES2022, true);
  const found: string[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isCallExpression(node) && ts.isIdentifier(node.expression) && ['fault', 'say', 'misplaced'].includes(node.expression.text)) {
      const [sentence] = node.arguments;
      if (sentence)
        found.push(
          ...textsOf(sentence).map((text) =>
            node.expression.getText() === 'fault' ? text : `Intake ‹name›, rule or field ‹name›: ${text}`,
          ),
        );
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found.filter((text) => text.replaceAll(/‹[^›]*›|[\s.,:;"']/g, '').length > 8);
}

function textsOf(node: ts.Expression): string[] {
  if (ts.isStringLiteralLike(node)) return [node.text];
  if (ts.isTemplateExpression(node))
    return [node.head.text + node.templateSpans.map(({ expression, literal }) => slot(expression) + literal.text).join('')];
  if (ts.isConditionalExpression(node)) return [...textsOf(node.whenTrue), ...textsOf(node.whenFalse)];
  return [];
}

/** What stands in a sentence, by its name in the source; what is worked out there by its shape only. */
function slot(expression: ts.Expression): string {
  if (ts.isConditionalExpression(expression)) {
    const [one] = textsOf(expression.whenTrue);
    return one ?? '‹…›';
  }
  const name = /([A-Za-z]+)\)*$/.exec(expression.getText())?.[1] ?? '';
  if (ts.isCallExpression(expression) && expression.expression.getText() === 'nearest') return 'did you mean "‹…›"?';
  return name.length > 1 && !['length', 'join', 'String', 'name'].includes(name) ? `‹${name}›` : '‹…›';
}

function escaped(sentence: string): string {
  return sentence.replaceAll(/\s+/g, ' ').replaceAll('<', '&lt;').replaceAll('*', '\\*').replaceAll('_', '\\_').trim();
}
