import { multipleIn } from './multiple-in.ts';

// JSON Schema 2020-12 by itself, for the keywords that are written: nothing of Jestril's is in it. A keyword that it does not know is an
// error, so that a document keeps to the standard; formats and the like are remarks.

type Schema = { readonly [keyword: string]: unknown } | boolean;
type Evaluate = (value: unknown, asked: never, schema: { readonly [keyword: string]: unknown }, root: Schema) => boolean;
type Members = { readonly [name: string]: unknown };

const REMARKS = new Set([
  '$schema',
  'title',
  'description',
  'default',
  'writeOnly',
  'format',
  'contentEncoding',
  'contentMediaType',
  'discriminator',
  '$defs',
  'then',
  'else',
]);
const isObject = (value: unknown): value is Members => typeof value === 'object' && value !== null && !Array.isArray(value);
const own = (value: Members, name: string) => Object.hasOwn(value, name) && value[name] !== undefined;
const same = (a: unknown, b: unknown) => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
const points = (text: string) => [...text].length;

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  return isObject(value)
    ? Object.fromEntries(
        Object.entries(value)
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([name, inner]) => [name, sorted(inner)]),
      )
    : value;
}

const typeOf = (value: unknown): string[] => {
  if (value === null) return ['null'];
  if (Array.isArray(value)) return ['array'];
  if (typeof value === 'number') return Number.isInteger(value) ? ['number', 'integer'] : ['number'];
  return [typeof value];
};

const KEYWORDS: { readonly [keyword: string]: Evaluate } = {
  type: (value, asked: string | string[]) => [asked].flat().some((type) => typeOf(value).includes(type)),
  enum: (value, asked: unknown[]) => asked.some((each) => same(each, value)),
  const: (value, asked) => same(value, asked),
  minimum: (value, asked: number) => typeof value !== 'number' || value >= asked,
  maximum: (value, asked: number) => typeof value !== 'number' || value <= asked,
  exclusiveMinimum: (value, asked: number) => typeof value !== 'number' || value > asked,
  exclusiveMaximum: (value, asked: number) => typeof value !== 'number' || value < asked,
  multipleOf: (value, asked: number) => typeof value !== 'number' || multipleIn(value, asked),
  minLength: (value, asked: number) => typeof value !== 'string' || points(value) >= asked,
  maxLength: (value, asked: number) => typeof value !== 'string' || points(value) <= asked,
  pattern: (value, asked: string) => typeof value !== 'string' || new RegExp(asked, 'u').test(value),
  minItems: (value, asked: number) => !Array.isArray(value) || value.length >= asked,
  maxItems: (value, asked: number) => !Array.isArray(value) || value.length <= asked,
  uniqueItems: (value, asked: boolean) =>
    !Array.isArray(value) || !asked || value.every((each, at) => value.findIndex((other) => same(each, other)) === at),
  contains: (value, asked: Schema, _schema, root) => !Array.isArray(value) || value.some((each) => accepts(asked, each, root)),
  items: (value, asked: Schema, _schema, root) => !Array.isArray(value) || value.every((each) => accepts(asked, each, root)),
  required: (value, asked: string[]) => !isObject(value) || asked.every((name) => own(value, name)),
  properties: (value, asked: { readonly [name: string]: Schema }, _schema, root) =>
    !isObject(value) || Object.entries(asked).every(([name, inner]) => !own(value, name) || accepts(inner, value[name], root)),
  additionalProperties: (value, asked: Schema, { properties = {} }, root) =>
    !isObject(value) || Object.keys(value).every((name) => Object.hasOwn(properties as object, name) || accepts(asked, value[name], root)),
  minProperties: (value, asked: number) => !isObject(value) || Object.keys(value).length >= asked,
  maxProperties: (value, asked: number) => !isObject(value) || Object.keys(value).length <= asked,
  dependentRequired: (value, asked: { readonly [name: string]: string[] }) =>
    !isObject(value) || Object.entries(asked).every(([name, others]) => !own(value, name) || others.every((other) => own(value, other))),
  allOf: (value, asked: Schema[], _schema, root) => asked.every((each) => accepts(each, value, root)),
  anyOf: (value, asked: Schema[], _schema, root) => asked.some((each) => accepts(each, value, root)),
  oneOf: (value, asked: Schema[], _schema, root) => asked.filter((each) => accepts(each, value, root)).length === 1,
  not: (value, asked: Schema, _schema, root) => !accepts(asked, value, root),
  if: (value, asked: Schema, schema, root) => {
    const { then = true, else: otherwise = true } = schema as { then?: Schema; else?: Schema };
    return accepts(accepts(asked, value, root) ? then : otherwise, value, root);
  },
  $ref: (value, asked: string, _schema, root) => accepts(resolved(asked, root), value, root),
};

function resolved(reference: string, root: Schema): Schema {
  const parts = reference.replace(/^#\/?/, '').split('/').filter(Boolean);
  return parts.reduce<unknown>(
    (inner, part) => (inner as Members)[decodeURIComponent(part).replaceAll('~1', '/').replaceAll('~0', '~')],
    root,
  ) as Schema;
}

/** Whether a value is as a schema demands. */
export function accepts(schema: Schema, value: unknown, root: Schema = schema): boolean {
  if (typeof schema === 'boolean') return schema;
  return Object.entries(schema).every(([keyword, asked]) => {
    if (REMARKS.has(keyword)) return true;
    const evaluate = KEYWORDS[keyword];
    if (!evaluate) throw new Error(`"${keyword}" is no keyword that is known here.`);
    return evaluate(value, asked as never, schema, root);
  });
}
