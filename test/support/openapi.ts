// OpenAPI 3.1 by itself, as far as documents of ours use it: nothing of Jestril's is in it. A member that an object does not have is wrong.

type Check = (value: unknown, at: string, wrong: string[]) => void;
type Members = { readonly [member: string]: Check };

const isObject = (value: unknown): value is { readonly [member: string]: unknown } =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const matches =
  (of: (value: unknown) => boolean, what: string): Check =>
  (value, at, wrong) => {
    if (!of(value)) wrong.push(`${at}: ${JSON.stringify(value)} is no ${what}`);
  };
const text = matches((value) => typeof value === 'string' && value !== '', 'text');
const flag = matches((value) => typeof value === 'boolean', 'boolean');
const oneOf = (...values: readonly string[]) => matches((value) => values.includes(value as string), values.join(' or '));
const listOf =
  (each: Check): Check =>
  (value, at, wrong) => {
    if (!Array.isArray(value)) return void wrong.push(`${at}: no list`);
    for (const [index, inner] of value.entries()) each(inner, `${at}/${index}`, wrong);
  };
const mapOf =
  (each: Check, key = /^/): Check =>
  (value, at, wrong) => {
    if (!isObject(value)) return void wrong.push(`${at}: no object`);
    for (const [name, inner] of Object.entries(value)) {
      if (!key.test(name)) wrong.push(`${at}: "${name}" is no name here`);
      each(inner, `${at}/${name}`, wrong);
    }
  };
const object =
  (members: () => Members, required: readonly string[] = []): Check =>
  (value, at, wrong) => {
    if (!isObject(value)) return void wrong.push(`${at}: no object`);
    for (const [name, inner] of Object.entries(value)) {
      const check = members()[name];
      if (check) check(inner, `${at}/${name}`, wrong);
      else wrong.push(`${at}: there is no member "${name}"`);
    }
    for (const name of required) if (!(name in value)) wrong.push(`${at}: "${name}" is missing`);
  };
const referring =
  (check: Check): Check =>
  (value, at, wrong) =>
    isObject(value) && '$ref' in value ? text(value.$ref, `${at}/$ref`, wrong) : check(value, at, wrong);

// Keywords are looked at by whoever evaluates the schema.
const schema: Check = (value, at, wrong) => {
  if (!isObject(value) && typeof value !== 'boolean') wrong.push(`${at}: no schema`);
};
const media = object(() => ({ schema, encoding: mapOf(object(() => ({ contentType: text }))) }));
const content = mapOf(media, /^[a-z]+\/[a-z0-9.+-]+$/);
const header = object(() => ({ description: text, schema }));
const response = referring(object(() => ({ description: text, headers: mapOf(header), content }), ['description']));
const parameter: Check = (value, at, wrong) => {
  object(
    () => ({
      name: text,
      in: oneOf('path', 'query', 'header', 'cookie'),
      required: flag,
      description: text,
      schema,
      style: oneOf('deepObject'),
      explode: flag,
    }),
    ['name', 'in', 'schema'],
  )(value, at, wrong);
  if (isObject(value) && value.in === 'path' && value.required !== true) wrong.push(`${at}: a parameter of a path is required`);
};
const operation = object(
  () => ({
    operationId: text,
    summary: text,
    parameters: listOf(parameter),
    requestBody: object(() => ({ required: flag, content }), ['content']),
    responses: mapOf(response, /^([1-5]\d\d|[1-5]XX|default)$/),
    security: listOf(mapOf(listOf(text))),
  }),
  ['responses'],
);
const document = object(
  () => ({
    openapi: matches((value) => /^3\.1\.\d+$/.test(String(value)), 'version 3.1'),
    info: object(() => ({ title: text, version: text }), ['title', 'version']),
    jsonSchemaDialect: text,
    paths: mapOf(mapOf(operation, /^(get|put|post|delete|options|head|patch|trace)$/), /^\//),
    components: object(() => ({
      schemas: mapOf(schema, /^[A-Za-z0-9._-]+$/),
      responses: mapOf(response, /^[A-Za-z0-9._-]+$/),
      securitySchemes: mapOf(object(() => ({ type: oneOf('http'), scheme: text }), ['type', 'scheme'])),
    })),
  }),
  ['openapi', 'info', 'paths'],
);

/** What is wrong with a document. */
export function wrongIn(given: object): string[] {
  const wrong: string[] = [];
  document(given, '#', wrong);
  const ids = new Set<unknown>();
  const { paths = {} } = given as {
    paths?: { [path: string]: { [method: string]: { operationId?: string; parameters?: { in: string; name: string }[] } } };
  };
  for (const [path, methods] of Object.entries(paths))
    for (const [method, { operationId, parameters = [] }] of Object.entries(methods)) {
      if (ids.has(operationId)) wrong.push(`${path} ${method}: another operation is called ${operationId}`);
      ids.add(operationId);
      const named = [...path.matchAll(/\{([^}]+)\}/g)].map(([, name]) => name);
      const declared = parameters.filter((each) => each.in === 'path').map(({ name }) => name);
      if (named.sort().join() !== declared.sort().join())
        wrong.push(`${path} ${method}: the path has ${named}, and ${declared} are declared`);
      const places = parameters.map((each) => `${each.in} ${each.name}`);
      if (new Set(places).size < places.length) wrong.push(`${path} ${method}: a parameter is declared twice`);
    }
  const visit = (value: unknown, at: string): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      if (key === '$ref' && (typeof inner !== 'string' || !leads(given, inner))) wrong.push(`${at}: ${inner} leads nowhere`);
      visit(inner, `${at}/${key}`);
    }
  };
  visit(given, '#');
  return wrong;
}

function leads(root: object, reference: string): boolean {
  let value: unknown = root;
  for (const step of reference.replace(/^#\//, '').split('/')) value = isObject(value) ? value[step] : undefined;
  return value !== undefined;
}
