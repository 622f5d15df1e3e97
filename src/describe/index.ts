// Descriptions of intakes, for people and for programs.

export type { Words } from '../core/messages/catalogues/words.ts';
export { describedAsHtml } from './as-html.ts';
export { describedAsMarkdown } from './as-markdown.ts';
export { describedAsText, type TextLook } from './as-text.ts';
export {
  type DescribedCollection,
  type DescribedExample,
  type DescribedField,
  type DescribedRule,
  type DescribeOptions,
  type Description,
  descriptionOf,
  type Refused,
} from './description.ts';
export { asDot, asSvg } from './drawing.ts';
export { htmlFormOf } from './html-form.ts';
export { jsonSchemaOf, type SchemaOf, type SchemaOptions, type ToldSchema } from './schema/json-schema.ts';
export { type OpenApiOptions, openApiOf, type Route, type ToldApi } from './schema/openapi.ts';
export type { Unsaid } from './schema/unsaid.ts';
export { type SqlDialect, sqlTableOf, type ToldTable } from './sql.ts';
export { typeScriptOf } from './typescript.ts';
