import { loadIntakes } from '../../basics/loading.ts';
import type { ExportLanguage } from './language.ts';

export const typeScript: ExportLanguage = {
  called: 'TypeScript',
  async write(module, { intake, locale }) {
    const { typeScriptOf } = await import('../../../describe/index.ts');
    const intakes = [...(await loadIntakes(module, intake)).values()];
    return { text: intakes.map((each) => typeScriptOf(each, locale)).join('\n'), unsaid: [] };
  },
};
