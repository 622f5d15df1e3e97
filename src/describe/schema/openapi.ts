import type { JsonSchema } from '../../core/declared/schema-words.ts';
import { planOf } from '../../core/intake.ts';
import { toldOf } from '../../core/kinds/told.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { walkSteps } from '../../core/plan/walk.ts';
import type { PartIntakes } from '../../http/receive/options.ts';
import { DIALECT, innerSchemaOf, type SchemaOf } from './json-schema.ts';
import type { Unsaid } from './unsaid.ts';

type Named = { readonly name: string };

/** One route, as `receive` stands before its handler. */
export interface Route {
  /** In lower or upper case. */
  readonly method: string;
  /** With the parameters in braces, `/bookings/{id}`, or with colons. */
  readonly path: string;
  /** Defaults to the name of the intake, after the method. */
  readonly operationId?: string;
  readonly summary?: string;
  /** One intake (for the body, or for the query of GET, HEAD and DELETE), or one for each part of the request. */
  readonly intake: Named | PartIntakes;
  /** What is sent changes a stored record: a JSON Merge Patch, unless the method is PUT. */
  readonly amends?: boolean;
  /** Intakes that answers match, by status: what `sends` is given. A status without one has no body. */
  readonly answers?: { readonly [status: string]: Named | undefined };
  /** Whether somebody has to be signed in. Defaults to false. */
  readonly needsCaller?: boolean;
  readonly occasion?: string;
}

/** A service: its routes, title and version. */
export interface OpenApiOptions {
  readonly title: string;
  readonly version: string;
  readonly routes: readonly Route[];
  /** The language of titles. Defaults to `en`. */
  readonly locale?: string;
  /** The languages that answers are given in (BCP 47). Defaults to those of the intakes. */
  readonly languages?: readonly string[];
  /** Findings are sent with their use and facts. Defaults to false, as `receive` does. */
  readonly fullFindings?: boolean;
}

/** An OpenAPI 3.1 document, and what the intakes demand that it cannot say. */
export interface ToldApi {
  readonly document: { readonly [member: string]: unknown };
  readonly unsaid: readonly (Unsaid & { readonly operation: string })[];
}

/** The routes of a service as OpenAPI 3.1. */
export function openApiOf({ title, version, routes, locale = 'en', languages, fullFindings = false }: OpenApiOptions): ToldApi {
  const schemas: { [name: string]: JsonSchema } = { Problem: problemSchema(fullFindings) };
  const unsaid: (Unsaid & { readonly operation: string })[] = [];
  const paths: { [path: string]: { [method: string]: unknown } } = {};
  for (const route of routes) {
    const path = route.path.replaceAll(/:([A-Za-z_][A-Za-z0-9_]*)/g, '{$1}');
    const writer = new Operation(route, path, locale, schemas, languages);
    const method = route.method.toLowerCase();
    paths[path] = { ...paths[path], [method]: writer.write() };
    unsaid.push(...writer.unsaid.map((each) => ({ ...each, operation: writer.id })));
  }
  const isGuarded = routes.some(({ needsCaller }) => needsCaller);
  return {
    document: {
      openapi: '3.1.0',
      info: { title, version },
      jsonSchemaDialect: DIALECT,
      paths,
      components: {
        schemas,
        responses: problemResponses(),
        ...(isGuarded && { securitySchemes: { caller: { type: 'http', scheme: 'bearer' } } }),
      },
    },
    unsaid,
  };
}

const WITHOUT_BODY = new Set(['get', 'head', 'delete']);
const JSON_TYPE = 'application/json';
const PATCH_TYPE = 'application/merge-patch+json';
const FORM_TYPE = 'application/x-www-form-urlencoded';
const MULTIPART = 'multipart/form-data';

class Operation {
  readonly unsaid: Unsaid[] = [];
  readonly id: string;
  readonly #route: Route;
  readonly #path: string;
  readonly #parts: { readonly [part: string]: Named | undefined };
  readonly #locale: string;
  readonly #schemas: { [name: string]: JsonSchema };
  readonly #languages: readonly string[];

  constructor(
    route: Route,
    path: string,
    locale: string,
    schemas: { [name: string]: JsonSchema },
    languages: readonly string[] | undefined,
  ) {
    const method = route.method.toLowerCase();
    this.#route = route;
    this.#path = path;
    this.#parts =
      'name' in route.intake
        ? { [WITHOUT_BODY.has(method) ? 'query' : 'body']: route.intake as Named }
        : (route.intake as { readonly [part: string]: Named });
    this.#locale = locale;
    this.#schemas = schemas;
    const [first] = Object.values(this.#parts).filter((part) => part !== undefined);
    this.id = route.operationId ?? `${method}-${first?.name ?? path.replaceAll(/\W+/g, '-')}`;
    this.#languages = languages ?? [...new Set(Object.values(this.#parts).flatMap((part) => (part ? languagesOf(planOf(part)) : [])))];
  }

  write(): object {
    const { summary, needsCaller, answers = {} } = this.#route;
    const { body, uploads } = this.#parts;
    const responses: { [status: string]: object } = {};
    for (const [status, intake] of Object.entries(Object.keys(answers).length === 0 ? { [this.#usualStatus()]: undefined } : answers))
      responses[status] = { description: 'Done.', ...(intake && { content: { [JSON_TYPE]: { schema: this.#named(intake, 'sent') } } }) };
    const refused = [
      'unreadable',
      ...(needsCaller ? ['unknownCaller', 'notAllowed'] : []),
      ...(this.#route.amends ? ['nothingThere'] : []),
      ...(body || uploads ? ['tooLarge', 'otherMediaType'] : []),
      'rejected',
      'undecided',
    ] as const;
    for (const name of refused) responses[PROBLEMS[name as keyof typeof PROBLEMS].status] = { $ref: `#/components/responses/${name}` };
    return {
      operationId: this.id,
      ...(summary !== undefined && { summary }),
      parameters: [...this.#parameters(), language(this.#languages)],
      ...((body || uploads) && { requestBody: this.#body(body, uploads) }),
      responses,
      ...(needsCaller && { security: [{ caller: [] }] }),
    };
  }

  #usualStatus(): string {
    const method = this.#route.method.toLowerCase();
    return method === 'post' ? '201' : WITHOUT_BODY.has(method) ? '200' : '204';
  }

  #body(body: Named | undefined, uploads: Named | undefined): object {
    const { method, amends } = this.#route;
    const isPatch = amends === true && method.toUpperCase() !== 'PUT';
    const content: { [type: string]: object } = {};
    const fields = body ? this.#named(body, isPatch ? 'amended' : 'received') : undefined;
    const plans = [body, uploads].flatMap((part) => (part ? [planOf(part)] : []));
    const files = plans.flatMap(filesIn);
    if (fields && files.length === 0) content[isPatch ? PATCH_TYPE : JSON_TYPE] = { schema: fields };
    // Browsers send every field as text, whatever its kind is.
    if (fields && files.length === 0) content[FORM_TYPE] = { schema: isPatch && body ? this.#named(body, 'received') : fields };
    if (files.length > 0) {
      const parts = [fields, uploads && this.#named(uploads, 'received')].filter((each) => each !== undefined);
      const encoding = Object.fromEntries(files.map(({ key, types }) => [key, { contentType: types }]));
      content[MULTIPART] = { schema: parts.length === 1 ? parts[0] : { allOf: parts }, encoding };
    }
    return { required: plans.some(({ fields: { steps } }) => steps.some(({ needed }) => needed)), content };
  }

  /** The members of the other parts, each a parameter. */
  #parameters(): object[] {
    const places = { params: 'path', query: 'query', headers: 'header', cookies: 'cookie' } as const;
    const declared = Object.entries(places).flatMap(([part, place]) => {
      const intake = this.#parts[part];
      if (!intake) return [];
      const { schema, unsaid } = innerSchemaOf(intake, { locale: this.#locale, ...this.#occasion() });
      this.unsaid.push(...unsaid);
      const { properties = {}, required = [] } = schema as {
        readonly properties?: { readonly [name: string]: JsonSchema };
        readonly required?: readonly string[];
      };
      for (const keyword of Object.keys(schema)) {
        if (!['type', 'properties', 'required', 'title', 'additionalProperties'].includes(keyword))
          this.unsaid.push({
            place: '',
            rule: keyword,
            use: keyword,
            why: `parameters stand each by itself, so that ${keyword} cannot be said`,
          });
      }
      return Object.entries(properties).map(([name, { title, ...inner }]) => ({
        name: place === 'header' ? name.toLowerCase() : name,
        in: place,
        required: place === 'path' || required.includes(name),
        ...(title !== undefined && { description: String(title) }),
        schema: inner,
        ...(inner.type === 'object' && place === 'query' && { style: 'deepObject', explode: true }),
      }));
    });
    const known = new Set(declared.filter((each) => each.in === 'path').map(({ name }) => name));
    const others = [...this.#path.matchAll(/\{([^}]+)\}/g)].map(([, name]) => name as string).filter((name) => !known.has(name));
    return [...declared, ...others.map((name) => ({ name, in: 'path', required: true, schema: { type: 'string' } }))];
  }

  #occasion(): { readonly occasion?: string } {
    return this.#route.occasion === undefined ? {} : { occasion: this.#route.occasion };
  }

  /** A schema among the components, by the name of its intake. */
  #named(intake: Named, of: SchemaOf): JsonSchema {
    const { schema, unsaid } = innerSchemaOf(intake, { of, locale: this.#locale, discriminators: true, ...this.#occasion() });
    this.unsaid.push(...unsaid);
    const base = `${intake.name}${of === 'received' ? '' : `.${of}`}`.replaceAll(/[^A-Za-z0-9._-]/g, '-');
    let name = base;
    for (let count = 2; this.#schemas[name] && JSON.stringify(this.#schemas[name]) !== JSON.stringify(schema); count++)
      name = `${base}.${count}`;
    this.#schemas[name] = schema;
    return { $ref: `#/components/schemas/${name}` };
  }
}

function language(languages: readonly string[]): object {
  return {
    name: 'Accept-Language',
    in: 'header',
    description: `The language of messages${languages.length > 0 ? `: ${languages.join(', ')}` : ''} (RFC 9110, 12.5.4).`,
    schema: { type: 'string' },
  };
}

/** The files among the fields of a plan, with the media types that their rules allow. */
function filesIn({ fields }: Plan): { readonly key: string; readonly types: string }[] {
  const files: { key: string; types: string }[] = [];
  walkSteps(fields, (step) => {
    if (!toldOf(step.kind)?.isPart) return;
    const types = step.checks.flatMap(({ takes }) => (Array.isArray(takes.types) ? (takes.types as string[]) : []));
    files.push({ key: step.place.segments[0] as string, types: types.length > 0 ? types.join(', ') : 'application/octet-stream' });
  });
  return files;
}

/** The languages in which labels or messages are given. */
function languagesOf({ fields, catalogues }: Plan): string[] {
  const found = new Set<string>(['en', ...catalogues.map(({ locale }) => locale)]);
  walkSteps(fields, ({ place: { label } }) => {
    if (typeof label !== 'string') for (const locale of Object.keys(label)) found.add(locale);
  });
  return [...found];
}

/** The problems that `receive` answers with. */
const PROBLEMS = {
  unreadable: { status: '400', description: 'The request cannot be read.' },
  unknownCaller: { status: '401', description: 'Nobody is signed in.' },
  notAllowed: { status: '403', description: 'The caller may not do this.' },
  nothingThere: { status: '404', description: 'There is nothing to change.' },
  tooLarge: { status: '413', description: 'The body is too large.' },
  otherMediaType: { status: '415', description: 'The media type is none that is read.' },
  rejected: { status: '422', description: 'Some rule does not hold; the findings say which.' },
  undecided: { status: '503', description: 'Something could not be checked just now.' },
};

function problemResponses(): { readonly [name: string]: object } {
  const language = { 'Content-Language': { description: 'The language of the problem (BCP 47).', schema: { type: 'string' } } };
  const later = { 'Retry-After': { description: 'Seconds.', schema: { type: 'integer' } } };
  return Object.fromEntries(
    Object.entries(PROBLEMS).map(([name, { status, description }]) => [
      name,
      {
        description,
        headers: status === '503' ? { ...language, ...later } : language,
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    ]),
  );
}

/** What `receive` answers with (RFC 9457). */
function problemSchema(isFull: boolean): JsonSchema {
  const finding = {
    type: 'object',
    required: ['rule', 'at', 'message', ...(isFull ? ['use', 'facts'] : [])],
    properties: {
      rule: { type: 'string', description: 'The id of the rule.' },
      at: { type: 'array', items: { type: 'string', format: 'json-pointer' }, description: 'JSON Pointers (RFC 6901) into the part.' },
      part: { type: 'string', enum: ['body', 'query', 'params', 'headers', 'cookies', 'uploads'] },
      message: { type: 'string', description: 'One sentence, in the language of the answer.' },
      severity: { const: 'warning' },
      ...(isFull && { use: { type: 'string' }, facts: { type: 'object' } }),
    },
  };
  return {
    type: 'object',
    required: ['type', 'title', 'status'],
    properties: {
      type: { type: 'string', format: 'uri-reference' },
      title: { type: 'string' },
      status: { type: 'integer' },
      detail: { type: 'string' },
      findings: { type: 'array', items: finding },
      more: { const: true },
    },
  };
}
