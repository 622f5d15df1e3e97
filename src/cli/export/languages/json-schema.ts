import { Option } from 'commander';
import type { SchemaOf } from '../../../describe/index.ts';
import { loadIntake } from '../../basics/loading.ts';
import { asJson, type ExportFlags, type ExportLanguage } from './language.ts';

export const jsonSchema: ExportLanguage<ExportFlags & { readonly of: SchemaOf }> = {
  called: 'JSON Schema',
  options: [
    new Option('--of <what>', 'of JSON Schema: what may be sent, a merge patch, or what is sent on')
      .choices(['received', 'amended', 'sent'])
      .default('received'),
  ],
  async write(module, flags) {
    const { jsonSchemaOf } = await import('../../../describe/index.ts');
    const { schema, unsaid } = jsonSchemaOf(await loadIntake(module, flags.intake), flags);
    return { text: asJson(schema), unsaid };
  },
};
