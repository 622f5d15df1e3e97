import { type Description, describedAsHtml, describedAsMarkdown, describedAsText, descriptionOf } from '../../describe/index.ts';
import type { Context } from '../basics/context.ts';
import { loadIntakes } from '../basics/loading.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { lookOf, wrapped } from '../basics/terminal.ts';
import { writeOut } from '../basics/write-out.ts';
import { checkLocale, checkOccasion, momentAt } from '../records/settings.ts';

export interface DescribeFlags {
  readonly intake?: string;
  readonly format: 'text' | 'markdown' | 'html' | 'json';
  readonly locale: string;
  readonly now?: string;
  readonly occasion?: string;
  readonly examples: boolean;
  readonly out?: string;
}

export async function describe(module: string, flags: DescribeFlags, context: Context): Promise<Exit> {
  const { locale, now, occasion, examples, format, out } = flags;
  checkLocale(locale);
  const moment = now === undefined ? undefined : momentAt(now);
  const descriptions: Description[] = [];
  for (const intake of (await loadIntakes(module, flags.intake)).values()) {
    checkOccasion(intake, occasion);
    descriptions.push(
      await descriptionOf(intake, { locale, examples, ...(moment && { now: moment }), ...(occasion !== undefined && { occasion }) }),
    );
  }
  await writeOut(textOf(descriptions, format, out === undefined ? context.stdout : {}), out, context);
  return EXIT.accepted;
}

function textOf(descriptions: readonly Description[], format: DescribeFlags['format'], stream: Context['stdout']): string {
  if (format === 'html') return describedAsHtml(descriptions);
  if (format === 'markdown') return descriptions.map(describedAsMarkdown).join('\n');
  if (format === 'json')
    return `${JSON.stringify(
      descriptions.map(({ words: _words, ...rest }) => rest),
      null,
      2,
    )}\n`;
  const look = lookOf(stream);
  const { bold, dim } = look.paint;
  return descriptions
    .map((each) => describedAsText(each, { bold, dim, wrap: (text, indent) => wrapped(look, text, indent, indent + 2) }))
    .join('\n');
}
