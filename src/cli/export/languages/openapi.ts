import { Option } from 'commander';
import type { Route } from '../../../describe/index.ts';
import { type LoadedIntake, loadIntakes, loadModule } from '../../basics/loading.ts';
import { asJson, type ExportFlags, type ExportLanguage } from './language.ts';

export const openApi: ExportLanguage<ExportFlags & { readonly title: string; readonly versionOf: string }> = {
  called: 'OpenAPI',
  options: [
    new Option('--title <title>', 'of OpenAPI').default('Service'),
    new Option('--version-of <version>', 'of OpenAPI: the version of the service').default('1.0.0'),
  ],
  async write(module, { intake, title, versionOf, locale }) {
    const { openApiOf } = await import('../../../describe/index.ts');
    const routes = await routesIn(module, intake);
    const { document, unsaid } = openApiOf({ title, version: versionOf, routes, locale });
    return { text: asJson(document), unsaid };
  },
};

/** The routes that a module exports; else one for each of its intakes, named after it. */
async function routesIn(module: string, intake: string | undefined): Promise<readonly Route[]> {
  const { routes } = await loadModule(module);
  if (Array.isArray(routes) && intake === undefined) return routes as readonly Route[];
  const intakes: LoadedIntake[] = [...(await loadIntakes(module, intake)).values()];
  return intakes.map((each) => ({ method: 'post', path: `/${each.name}`, intake: each }));
}
