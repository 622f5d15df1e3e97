import { Option } from 'commander';
import { DIALECTS, type SqlDialect } from '../../../records/sql/writings.ts';
import { loadIntake } from '../../basics/loading.ts';
import type { ExportFlags, ExportLanguage } from './language.ts';

export const sql: ExportLanguage<ExportFlags & { readonly dialect: SqlDialect }> = {
  called: 'SQL',
  options: [new Option('--dialect <dialect>', 'of SQL').choices(DIALECTS).default(DIALECTS[0])],
  async write(module, { intake, dialect }) {
    const { sqlTableOf } = await import('../../../describe/index.ts');
    const { statement, unsaid } = sqlTableOf(await loadIntake(module, intake), dialect);
    return { text: statement, unsaid };
  },
};
