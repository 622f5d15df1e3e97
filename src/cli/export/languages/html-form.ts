import { loadIntake } from '../../basics/loading.ts';
import type { ExportLanguage } from './language.ts';

export const htmlForm: ExportLanguage = {
  called: 'an HTML form',
  async write(module, { intake, locale }) {
    const { htmlFormOf } = await import('../../../describe/index.ts');
    return { text: htmlFormOf(await loadIntake(module, intake), { locale }), unsaid: [] };
  },
};
