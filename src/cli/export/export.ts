import { nearest } from '../../core/basics/fault.ts';
import {
  htmlFormOf,
  jsonSchemaOf,
  openApiOf,
  type Route,
  type SchemaOf,
  type SqlDialect,
  sqlTableOf,
  typeScriptOf,
} from '../../describe/index.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake, loadIntakes, loadModule } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { columns, lookOf } from '../basics/terminal.ts';
import { writeOut } from '../basics/write-out.ts';
import { checkLocale } from '../records/settings.ts';

export interface ExportFlags {
  readonly intake?: string;
  readonly of: SchemaOf;
  readonly dialect: SqlDialect;
  readonly title: string;
  readonly versionOf: string;
  readonly locale: string;
  readonly strict?: boolean;
  readonly out?: string;
}

interface Written {
  readonly text: string;
  readonly unsaid: readonly { readonly place: string; readonly use: string; readonly why: string; readonly operation?: string }[];
}

const LANGUAGES: { readonly [language: string]: (module: string, flags: ExportFlags) => Promise<Written> } = {
  'json-schema': async (module, flags) => {
    const { schema, unsaid } = jsonSchemaOf(await loadIntake(module, flags.intake), flags);
    return { text: asJson(schema), unsaid };
  },
  openapi: async (module, { intake, title, versionOf, locale }) => {
    const routes = await routesIn(module, intake);
    const { document, unsaid } = openApiOf({ title, version: versionOf, routes, locale });
    return { text: asJson(document), unsaid };
  },
  typescript: async (module, { intake, locale }) => {
    const intakes = [...(await loadIntakes(module, intake)).values()];
    return { text: intakes.map((each) => typeScriptOf(each, locale)).join('\n'), unsaid: [] };
  },
  sql: async (module, { intake, dialect }) => {
    const { statement, unsaid } = sqlTableOf(await loadIntake(module, intake), dialect);
    return { text: statement, unsaid };
  },
  'html-form': async (module, { intake, locale }) => ({ text: htmlFormOf(await loadIntake(module, intake), { locale }), unsaid: [] }),
};

export async function exportAs(language: string, module: string, flags: ExportFlags, context: Context): Promise<Exit> {
  checkLocale(flags.locale);
  const write = Object.hasOwn(LANGUAGES, language) ? LANGUAGES[language] : undefined;
  if (!write) throw new Misuse(`There is no language "${language}"; ${nearest(language, Object.keys(LANGUAGES))}`);
  const { text, unsaid } = await write(module, flags);
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

/** The routes that a module exports; else one for each of its intakes, named after it. */
async function routesIn(module: string, intake: string | undefined): Promise<readonly Route[]> {
  const { routes } = await loadModule(module);
  if (Array.isArray(routes) && intake === undefined) return routes as readonly Route[];
  const intakes: LoadedIntake[] = [...(await loadIntakes(module, intake)).values()];
  return intakes.map((each) => ({ method: 'post', path: `/${each.name}`, intake: each }));
}

function asJson(value: unknown): string {
  return `${JSON.stringify(value, null, 2)}\n`;
}
