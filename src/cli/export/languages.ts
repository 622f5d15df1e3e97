import { htmlForm } from './languages/html-form.ts';
import { jsonSchema } from './languages/json-schema.ts';
import type { ExportLanguage } from './languages/language.ts';
import { openApi } from './languages/openapi.ts';
import { sql } from './languages/sql.ts';
import { typeScript } from './languages/typescript.ts';

/** Every language that intakes are written in, by what a person types. */
export const LANGUAGES: { readonly [typed: string]: ExportLanguage<never> } = {
  'json-schema': jsonSchema,
  openapi: openApi,
  typescript: typeScript,
  sql,
  'html-form': htmlForm,
};
