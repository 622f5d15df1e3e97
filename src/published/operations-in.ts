import type { BuiltIntake } from '../drafts/built.ts';
import { schemaAt } from './gathered.ts';
import { readIntake } from './intake-of.ts';
import { type Body, type Content, Operation, type Part } from './operation.ts';
import { isStyle, type Parameter, typeNamed, usualStyle } from './parameters.ts';
import { inside, isObject, type Placed, type Places, type Refused, Unsupported } from './places.ts';
import type { ReadingOptions } from './reading.ts';

type Reporter = { refuse(of: string, each: Refused): void; note(of: string, each: Refused): void };

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];
const PARTS = { path: 'params', query: 'query', header: 'headers', cookie: 'cookies' } as const;

/** The operations of an OpenAPI document, by their ids. */
export function operationsIn(
  { paths }: { readonly [member: string]: unknown },
  places: Places,
  options: ReadingOptions,
  reporter: Reporter,
): Map<string, Operation> {
  const operations = new Map<string, Operation>();
  for (const [path, item] of Object.entries(isObject(paths) ? paths : {})) {
    const at = inside('#', 'paths', path);
    const told = attemptedAt(
      () => followed(item, at, places),
      (each) => reporter.refuse(path, each),
    );
    if (!told) continue;
    for (const method of METHODS) {
      const operation = told.value[method];
      if (!isObject(operation)) continue;
      const id = typeof operation.operationId === 'string' ? operation.operationId : `${method} ${path}`;
      const reader = new OperationReader(places, options, {
        refuse: (each) => reporter.refuse(id, each),
        note: (each) => reporter.note(id, each),
      });
      const made = reader.read(id, method, path, operation, inside(told.at, method), told);
      if (made) operations.set(id, made);
    }
  }
  return operations;
}

/** What is read, or why it cannot be. */
function attemptedAt<T>(reads: () => T, refuse: (each: Refused) => void): T | undefined {
  try {
    return reads();
  } catch (cause) {
    if (!(cause instanceof Unsupported)) throw cause;
    refuse(cause.refused);
    return undefined;
  }
}

function followed(
  value: unknown,
  at: string,
  places: Places,
): { readonly value: { readonly [member: string]: unknown }; readonly at: string } {
  if (!isObject(value)) return { value: {}, at };
  if (typeof value.$ref !== 'string') return { value, at };
  const found = places.found(value.$ref, at);
  return isObject(found.value) ? { value: found.value, at: found.at } : { value: {}, at: found.at };
}

class OperationReader {
  readonly #places: Places;
  readonly #options: ReadingOptions;
  readonly #reporter: { refuse(each: Refused): void; note(each: Refused): void };
  #isRefused = false;

  constructor(places: Places, options: ReadingOptions, reporter: { refuse(each: Refused): void; note(each: Refused): void }) {
    this.#places = places;
    this.#options = options;
    this.#reporter = reporter;
  }

  read(
    id: string,
    method: string,
    path: string,
    operation: { readonly [member: string]: unknown },
    at: string,
    item: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
  ): Operation | undefined {
    const parameters = this.#parameters(operation, at, item);
    const parts: { [P in Part]?: BuiltIntake } = {};
    for (const [place, part] of Object.entries(PARTS)) {
      const own = parameters.filter((each) => each.in === place);
      if (own.length === 0) continue;
      const schema = {
        type: 'object',
        properties: Object.fromEntries(own.map(({ name, placed }) => [name, placed.schema])),
        required: own.filter(({ isRequired }) => isRequired).map(({ name }) => name),
      };
      const made = this.#intake(`${id} ${part}`, { schema, at: inside(at, 'parameters') }, 'received', false);
      if (made) parts[part] = made;
    }
    const body = this.#attempted(() => {
      const found = followed(operation.requestBody, inside(at, 'requestBody'), this.#places);
      return found.value.content === undefined ? undefined : this.#content(id, found, 'received', found.value.required === true);
    });
    const [first] = body ? body.bodies.values() : [];
    if (first && !first.isWrapped) parts.body = first.intake;
    const answers = new Map<string, Content | undefined>();
    for (const [status, response] of Object.entries(isObject(operation.responses) ? operation.responses : {}))
      this.#attempted(() => {
        const found = followed(response, inside(at, 'responses', status), this.#places);
        answers.set(
          status.toUpperCase().replace('DEFAULT', 'default'),
          found.value.content === undefined ? undefined : this.#content(`${id} ${status}`, found, 'sent', true),
        );
      });
    return this.#isRefused ? undefined : new Operation(id, method, path, parts, parameters, body, answers);
  }

  #attempted<T>(reads: () => T): T | undefined {
    return attemptedAt(reads, (each) => {
      this.#isRefused = true;
      this.#reporter.refuse(each);
    });
  }

  #intake(name: string, placed: Placed, direction: 'received' | 'sent', files: boolean): BuiltIntake | undefined {
    const { intake, refused, notes } = readIntake(name, placed, this.#places, { ...this.#options, direction, files });
    for (const each of refused) this.#reporter.refuse(each);
    for (const each of notes) this.#reporter.note(each);
    if (!intake) this.#isRefused = true;
    return intake;
  }

  /** Those of the operation replace those of its path with the same name in the same place. */
  #parameters(
    operation: { readonly [member: string]: unknown },
    at: string,
    item: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
  ): Parameter[] {
    const byName = new Map<string, Parameter>();
    const lists = [
      [item.value.parameters, inside(item.at, 'parameters')],
      [operation.parameters, inside(at, 'parameters')],
    ] as const;
    for (const [list, where] of lists)
      for (const [index, each] of (Array.isArray(list) ? list : []).entries())
        this.#attempted(() => {
          const parameter = this.#parameter(each, inside(where, index));
          if (parameter) byName.set(`${parameter.in} ${parameter.name}`, parameter);
        });
    return [...byName.values()];
  }

  #parameter(given: unknown, at: string): Parameter | undefined {
    const { value, at: there } = followed(given, at, this.#places);
    const place = String(value.in) as Parameter['in'];
    if (!Object.hasOwn(PARTS, place))
      throw new Unsupported(inside(there, 'in'), 'in', `${JSON.stringify(value.in)} is none of path, query, header and cookie`);
    const name = place === 'header' ? String(value.name).toLowerCase() : String(value.name);
    // What these say is of HTTP itself (OpenAPI 3.1, 4.8.12.2.1).
    if (place === 'header' && ['accept', 'content-type', 'authorization'].includes(name)) return undefined;
    if (value.content !== undefined)
      throw new Unsupported(inside(there, 'content'), 'content', 'a parameter that is a document by itself is not read');
    const style = typeof value.style === 'string' ? value.style : usualStyle(place);
    if (!isStyle(place, style)) throw new Unsupported(inside(there, 'style'), 'style', `"${style}" is none for a parameter of ${place}`);
    const schema = schemaAt(value.schema ?? true, inside(there, 'schema'));
    const referred = followed(schema, inside(there, 'schema'), this.#places).value;
    return {
      name,
      in: place,
      isRequired: place === 'path' || value.required === true,
      style,
      explode: typeof value.explode === 'boolean' ? value.explode : style === 'form' || style === 'deepObject',
      type: typeNamed(referred),
      members: isObject(referred.properties) ? Object.keys(referred.properties) : [],
      placed: { schema, at: inside(there, 'schema') },
    };
  }

  #content(
    name: string,
    { value, at }: { readonly value: { readonly [member: string]: unknown }; readonly at: string },
    direction: 'received' | 'sent',
    isRequired: boolean,
  ): Content {
    const bodies = new Map<string, Body>();
    const others: string[] = [];
    for (const [type, media] of Object.entries(isObject(value.content) ? value.content : {})) {
      const where = inside(at, 'content', type);
      const key = type.split(';')[0]?.trim().toLowerCase() as string;
      const as = /[/+]json$/.test(key) || key === '*/*' || key === 'application/*' ? 'json' : FORMS.has(key) ? 'form' : undefined;
      if (!as || !isObject(media) || media.schema === undefined) {
        others.push(key);
        this.#reporter.note({
          at: where,
          keyword: 'content',
          why: as ? 'a body without a schema is not judged' : `bodies of ${key} are not judged`,
        });
        continue;
      }
      const placed = { schema: schemaAt(media.schema, inside(where, 'schema')), at: inside(where, 'schema') };
      const isWrapped =
        ['array', 'string', 'number', 'integer', 'boolean'].includes(typeNamed(followed(placed.schema, placed.at, this.#places).value)) &&
        !isUntyped(followed(placed.schema, placed.at, this.#places).value);
      const whole = isWrapped
        ? { schema: { type: 'object', properties: { body: placed.schema }, required: ['body'] }, at: placed.at }
        : placed;
      const intake = this.#intake(name, whole, direction, key === 'multipart/form-data');
      if (intake) bodies.set(key, { intake, as, isWrapped });
    }
    return { bodies, others, isRequired };
  }
}

/** Of a schema put together of others the type does not show. */
function isUntyped(schema: { readonly [keyword: string]: unknown }): boolean {
  return schema.type === undefined && schema.items === undefined;
}

const FORMS = new Set(['application/x-www-form-urlencoded', 'multipart/form-data']);
