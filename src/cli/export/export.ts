import { nearest } from '../../core/basics/fault.ts';
import type { Context } from '../basics/context.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { columns, lookOf } from '../basics/terminal.ts';
import { writeOut } from '../basics/write-out.ts';
import { checkLocale } from '../records/settings.ts';
import type { ExportFlags, Written } from './languages/language.ts';
import { LANGUAGES } from './languages.ts';

export async function exportAs(language: string, module: string, flags: ExportFlags, context: Context): Promise<Exit> {
  checkLocale(flags.locale);
  const written = Object.hasOwn(LANGUAGES, language) ? LANGUAGES[language] : undefined;
  if (!written) throw new Misuse(`There is no language "${language}"; ${nearest(language, Object.keys(LANGUAGES))}`);
  const { text, unsaid } = await written.write(module, flags as never);
  await writeOut(text, flags.out, context);
  if (unsaid.length > 0) {
    context.warn(`Not said in it:\n${listed(unsaid)}`);
  }
  return flags.strict && unsaid.length > 0 ? EXIT.rejected : EXIT.accepted;
}

/** What cannot be said, of each operation by itself. */
function listed(unsaid: Written['unsaid']): string {
  const groups = new Map<string, Map<string, readonly string[]>>();
  for (const { operation = '', place, use, why } of unsaid) {
    const rows = groups.get(operation) ?? new Map<string, readonly string[]>();
    groups.set(operation, rows.set(`${use} ${why}`, [use, place === '' || use.endsWith(`@${place}`) ? why : `${place}: ${why}`]));
  }
  const look = lookOf(process.stderr);
  return [...groups]
    .map(([operation, rows]) => `${operation === '' ? '' : `${operation}\n`}${columns(look, [...rows.values()])}\n`)
    .join('');
}
