import type { Random } from './random.ts';

type Schema = { readonly [keyword: string]: unknown };

const KEYS = ['berth', 'nights', 'plug', 'mark', 'owner', 'crew'];
const WORDS = ['A1', 'B22', '', ' ', 'north', '16A', '32A', 'ünï'];
const NUMBERS = [-3, 0, 1, 2, 2.5, 7, 12, 0.1, 40];

/** A schema of an object, of the keywords that can be read as an intake, and what may be shared by reference. */
export function schemaFor(random: Random): Schema {
  const defs: { [name: string]: Schema } = {};
  const root = objectSchema(random, 2, defs);
  return Object.keys(defs).length > 0 ? { ...root, $defs: defs } : root;
}

function objectSchema(random: Random, depth: number, defs: { [name: string]: Schema }): Schema {
  const keys = KEYS.filter(() => random.next() < 0.6);
  if (keys.length === 0) keys.push('berth');
  const properties = Object.fromEntries(keys.map((key) => [key, valueSchema(random, depth, defs)]));
  const required = keys.filter(() => random.next() < 0.5);
  const parts: Schema[] = [];
  const optional = keys.filter((key) => !required.includes(key));
  const compared = keys.filter((key) => Array.isArray((properties[key] as Schema).enum));
  if (optional.length > 1 && random.next() < 0.3) parts.push({ dependentRequired: { [random.pick(keys)]: [random.pick(optional)] } });
  if (optional.length > 1 && random.next() < 0.2)
    parts.push({ [random.pick(['anyOf', 'oneOf'])]: optional.slice(0, 2).map((key) => ({ required: [key] })) });
  if (compared.length > 0 && optional.length > 0 && random.next() < 0.6) {
    const key = random.pick(compared);
    const values = (properties[key] as { readonly enum: readonly unknown[] }).enum;
    const asked =
      random.next() < 0.5 ? { const: values[0] } : random.next() < 0.5 ? { enum: values.slice(0, 2) } : { not: { const: values[0] } };
    const condition = { properties: { [key]: asked }, ...(random.next() < 0.5 && { required: [key] }) };
    const told = () => (random.next() < 0.5 ? { required: [random.pick(optional)] } : { not: { required: [random.pick(optional)] } });
    parts.push({
      if: random.next() < 0.2 ? { not: condition } : random.next() < 0.2 ? { required: [random.pick(keys)] } : condition,
      // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
      then: told(),
      ...(random.next() < 0.4 && { else: random.next() < 0.3 ? { properties: { [random.pick(optional)]: false } } : told() }),
    });
  }
  const own = { type: 'object', properties, ...(required.length > 0 && { required }) };
  if (parts.length === 0) return own;
  return random.next() < 0.3 ? { allOf: [own, ...parts] } : { ...own, allOf: parts };
}

function valueSchema(random: Random, depth: number, defs: { [name: string]: Schema }): Schema {
  if (random.next() < 0.1) {
    const name = `shared${Object.keys(defs).length}`;
    defs[name] = {};
    defs[name] = valueSchema(random, depth, defs);
    return random.next() < 0.5 ? { $ref: `#/$defs/${name}` } : { allOf: [{ $ref: `#/$defs/${name}` }] };
  }
  const schema = plainSchema(random, depth, defs);
  if (random.next() > 0.15 || schema.not || typeof schema.type !== 'string' || ['object', 'array'].includes(schema.type)) return schema;
  if (schema.enum || schema.anyOf || random.next() < 0.5) return { anyOf: [schema, { type: 'null' }] };
  return { ...schema, type: [schema.type, 'null'] };
}

function plainSchema(random: Random, depth: number, defs: { [name: string]: Schema }): Schema {
  const kind = random.pick([
    'text',
    'text',
    'number',
    'integer',
    'flag',
    'choice',
    'choice',
    'list',
    'object',
    'table',
    'shapes',
    'open',
    'any',
  ]);
  if (depth === 0 && ['list', 'object', 'table', 'shapes'].includes(kind)) return { type: 'boolean' };
  switch (kind) {
    case 'text':
      return { type: 'string', ...textLimits(random) };
    case 'number':
    case 'integer':
      return { type: kind, ...numberLimits(random) };
    case 'flag':
      return random.next() < 0.3 ? { type: 'boolean', const: random.next() < 0.5 } : { type: 'boolean' };
    case 'choice':
      return random.next() < 0.2
        ? { oneOf: [{ const: 'A1' }, { const: 'north', title: 'North pier' }] }
        : { enum: random.next() < 0.6 ? ['A1', 'north', '16A'] : [1, 2, 2.5] };
    case 'list':
      return {
        type: 'array',
        items: valueSchema(random, depth - 1, defs),
        ...(random.next() < 0.5 && { minItems: 1 }),
        ...(random.next() < 0.5 && { maxItems: 2 }),
        ...(random.next() < 0.3 && { uniqueItems: true }),
      };
    case 'table':
      return {
        type: 'object',
        additionalProperties: valueSchema(random, depth - 1, defs),
        ...(random.next() < 0.5 && { maxProperties: 2 }),
      };
    case 'shapes':
      return {
        oneOf: ['card', 'cash'].map((method) => {
          const inner = objectSchema(random, 0, defs);
          return { allOf: [inner, { type: 'object', properties: { method: { const: method } }, required: ['method'] }] };
        }),
      };
    case 'open':
      return random.pick<Schema>([
        {},
        { type: 'object' },
        { type: 'array' },
        { type: ['string', 'integer', 'object'] },
        { type: ['boolean', 'array'] },
      ]);
    case 'any':
      return {
        type: 'string',
        [random.pick(['anyOf'])]: [{ pattern: '^[A-Z]' }, { maxLength: 3 }],
        ...(random.next() < 0.4 && { not: { const: 'A1' } }),
      };
    default:
      return objectSchema(random, depth - 1, defs);
  }
}

function textLimits(random: Random): Schema {
  return {
    ...(random.next() < 0.3 && { minLength: 1 + random.below(2) }),
    ...(random.next() < 0.3 && { maxLength: 4 }),
    ...(random.next() < 0.3 && { pattern: random.pick(['^[A-Z]\\d+$', '\\S', 'n', '^.{1,3}$']) }),
    ...(random.next() < 0.1 && { not: random.pick([{ pattern: '^A' }, { enum: ['A1', 'north'] }]) }),
  };
}

function numberLimits(random: Random): Schema {
  return {
    ...(random.next() < 0.3 && { minimum: random.pick([-1, 0, 1.5]) }),
    ...(random.next() < 0.3 && { maximum: random.pick([2, 10.5]) }),
    ...(random.next() < 0.2 && { exclusiveMinimum: 0 }),
    ...(random.next() < 0.2 && { exclusiveMaximum: 12 }),
    ...(random.next() < 0.2 && { multipleOf: random.pick([1, 2, 0.5]) }),
  };
}

/** Something to be judged by it: mostly as it wants, and then not. */
export function valueFor(schema: Schema, random: Random, root: Schema = schema): unknown {
  if (random.next() < 0.06) return random.pick<unknown>([...WORDS, ...NUMBERS, true, false, [], {}, ['A1']]);
  if (typeof schema.$ref === 'string')
    return valueFor((root.$defs as { [name: string]: Schema })[schema.$ref.slice(8)] as Schema, random, root);
  for (const keyword of ['oneOf', 'anyOf'] as const) {
    const branches = schema[keyword] as readonly Schema[] | undefined;
    if (branches && !branches.every((branch) => 'required' in branch && Object.keys(branch).length === 1)) {
      const branch = random.pick(branches);
      return valueFor(branch.type || branch.const || branch.allOf || branch.enum ? branch : { ...branch, type: 'string' }, random, root);
    }
  }
  if (Array.isArray(schema.allOf)) {
    const parts = [{ ...schema, allOf: undefined }, ...(schema.allOf as Schema[])].filter(
      (each) => each.type || each.$ref || each.properties,
    );
    const values = parts.map((part) => valueFor(part as Schema, random, root));
    return values.every((value) => typeof value === 'object' && value !== null && !Array.isArray(value))
      ? Object.assign({}, ...(values as object[]))
      : values[0];
  }
  if ('const' in schema) return schema.const;
  if (Array.isArray(schema.enum)) return random.pick(schema.enum);
  if (schema.type === undefined && !schema.properties) return random.pick<unknown>([...WORDS, ...NUMBERS, true, [], { a: [1] }]);
  const type = Array.isArray(schema.type) ? random.pick(schema.type as string[]) : schema.type;
  switch (type) {
    case 'string':
      return random.pick(WORDS);
    case 'number':
      return random.pick(NUMBERS);
    case 'integer':
      return random.pick(random.next() < 0.9 ? NUMBERS.filter(Number.isInteger) : NUMBERS);
    case 'boolean':
      return random.next() < 0.5;
    case 'null':
      return null;
    case 'array':
      return Array.from({ length: random.below(4) }, () => valueFor((schema.items ?? {}) as Schema, random, root));
    default: {
      const { properties = {}, additionalProperties } = schema as { properties?: { [key: string]: Schema }; additionalProperties?: Schema };
      if (additionalProperties)
        return Object.fromEntries(KEYS.slice(0, random.below(4)).map((key) => [key, valueFor(additionalProperties, random, root)]));
      return Object.fromEntries(
        Object.entries(properties)
          .filter(([key]) => random.next() < ((schema.required as string[] | undefined)?.includes(key) ? 0.95 : 0.5))
          .map(([key, inner]) => [key, valueFor(inner, random, root)]),
      );
    }
  }
}
