import { inside, isObject, type Placed, type Places, type Schema, Unsupported } from './places.ts';

/** A limit: its keyword, what it says, and where. */
export interface Limit {
  readonly keyword: string;
  readonly value: unknown;
  readonly at: string;
}

/** Alternatives: `oneOf` or `anyOf`. */
export interface Alternatives {
  readonly keyword: 'oneOf' | 'anyOf';
  readonly branches: readonly Placed[];
  readonly discriminator: Schema | undefined;
  readonly at: string;
}

/** `if`, `then` and `else`. */
export interface Choosing {
  readonly asked: Placed;
  readonly held: Placed | undefined;
  readonly otherwise: Placed | undefined;
}

/** All that a schema demands, with what it refers to and what it is put together of. */
export interface Gathered {
  readonly at: string;
  /** What the types leave of each other; `undefined` where none is named. */
  types: ReadonlySet<string> | undefined;
  /** Of each `enum` and `const`. */
  readonly values: { readonly values: readonly unknown[]; readonly at: string }[];
  readonly limits: Limit[];
  readonly formats: Limit[];
  readonly properties: Map<string, Placed[]>;
  readonly required: Set<string>;
  readonly items: Placed[];
  /** `additionalProperties`, as far as it is a schema. */
  readonly others: Placed[];
  /** Where undeclared members are refused. */
  closedAt: string | undefined;
  readonly alternatives: Alternatives[];
  readonly nots: Placed[];
  readonly choosing: Choosing[];
  readonly dependent: { readonly on: string; readonly needs: readonly string[]; readonly at: string }[];
  readonly remarks: { title?: string; description?: string; default?: unknown; readOnly?: boolean; writeOnly?: boolean };
  /** What it was gathered from. */
  readonly sources: Placed[];
  /** The places that it refers to, itself among them. */
  readonly referred: Set<string>;
}

/** What tells nothing that is judged. */
const SILENT = new Set(
  '$schema $id $anchor $comment $defs $vocabulary definitions title description default examples example deprecated readOnly writeOnly externalDocs xml discriminator contentMediaType then else'.split(
    ' ',
  ),
);
const LIMITS = new Set(
  'minLength maxLength pattern minimum maximum exclusiveMinimum exclusiveMaximum multipleOf minItems maxItems uniqueItems minProperties maxProperties contentEncoding'.split(
    ' ',
  ),
);
const UNSUPPORTED: { readonly [keyword: string]: string } = {
  $dynamicRef: 'what it points to is known only while judging',
  prefixItems: 'a list has entries that are all alike',
  contains: 'no rule counts entries that are like a schema',
  minContains: 'no rule counts entries that are like a schema',
  maxContains: 'no rule counts entries that are like a schema',
  patternProperties: 'fields have names, and a table has entries that are all alike',
  propertyNames: 'no rule reads the names of members',
  dependentSchemas: 'it changes what fields are',
  unevaluatedItems: 'a list has entries that are all alike',
  contentSchema: 'what stands inside a text is not read',
};

/** As many schemas behind one another as no document has that ends. */
const DEEPEST = 60;

export class Gatherer {
  readonly #places: Places;
  readonly #note: (at: string, keyword: string, why: string) => void;

  constructor(places: Places, note: (at: string, keyword: string, why: string) => void) {
    this.#places = places;
    this.#note = note;
  }

  /** Of one schema, or of several that hold together. */
  gathered(...all: readonly Placed[]): Gathered {
    const [first] = all as [Placed];
    const into: Gathered = {
      at: first.at,
      types: undefined,
      values: [],
      limits: [],
      formats: [],
      properties: new Map(),
      required: new Set(),
      items: [],
      others: [],
      closedAt: undefined,
      alternatives: [],
      nots: [],
      choosing: [],
      dependent: [],
      remarks: {},
      sources: [],
      referred: new Set(),
    };
    for (const each of all) this.add(each, into);
    return into;
  }

  /** What has to hold besides. */
  add(placed: Placed, into: Gathered): void {
    into.sources.push(placed);
    this.#add(placed, into, 0);
  }

  /** The schema itself, where it only refers. */
  followed(placed: Placed): Placed {
    let at: Placed = placed;
    for (let depth = 0; depth < DEEPEST && isObject(at.schema) && Object.keys(at.schema).join() === '$ref'; depth++)
      at = this.#referred(at.schema.$ref, at.at);
    return at;
  }

  #referred(reference: unknown, at: string): Placed {
    const { value, at: there } = this.#places.found(reference, inside(at, '$ref'));
    return { schema: schemaAt(value, there), at: there };
  }

  #add({ schema, at }: Placed, into: Gathered, depth: number): void {
    if (depth > DEEPEST) throw new Unsupported(at, '$ref', 'it refers to itself without anything in between');
    if (schema === true) return;
    if (schema === false) throw new Unsupported(at, 'false', 'nothing fits it');
    const { remarks } = into;
    into.referred.add(at);
    // What stands beside a reference is nearer than what it refers to.
    if (typeof schema.title === 'string') remarks.title ??= schema.title;
    if (typeof schema.description === 'string') remarks.description ??= schema.description;
    if ('default' in schema && !('default' in remarks)) remarks.default = schema.default;
    if (schema.readOnly === true) remarks.readOnly = true;
    if (schema.writeOnly === true) remarks.writeOnly = true;
    for (const [keyword, value] of Object.entries(schema)) this.#keyword(keyword, value, schema, at, into, depth);
  }

  #keyword(keyword: string, value: unknown, schema: Schema, at: string, into: Gathered, depth: number): void {
    const there = inside(at, keyword);
    const placed = (inner: unknown, ...steps: readonly (string | number)[]): Placed => {
      const place = inside(there, ...steps);
      return { schema: schemaAt(inner, place), at: place };
    };
    if (LIMITS.has(keyword)) into.limits.push({ keyword, value, at: there });
    else if (Object.hasOwn(UNSUPPORTED, keyword)) throw new Unsupported(there, keyword, UNSUPPORTED[keyword] as string);
    else
      switch (keyword) {
        case 'type': {
          const types = typesIn(value, there);
          into.types = into.types ? crossed(into.types, types) : types;
          if (into.types.size === 0) throw new Unsupported(there, keyword, 'no type is left, so that nothing fits it');
          return;
        }
        case 'enum':
          into.values.push({ values: listAt(value, there), at: there });
          return;
        case 'const':
          into.values.push({ values: [value], at: there });
          return;
        case 'format':
          into.formats.push({ keyword, value, at: there });
          return;
        case '$ref': {
          const { value: referred, at: where } = this.#places.found(value, there);
          return this.#add({ schema: schemaAt(referred, where), at: where }, into, depth + 1);
        }
        case 'allOf':
          for (const [index, each] of listAt(value, there).entries()) this.#add(placed(each, index), into, depth + 1);
          return;
        case 'properties':
          for (const [name, each] of Object.entries(objectAt(value, there)))
            into.properties.set(name, [...(into.properties.get(name) ?? []), placed(each, name)]);
          return;
        case 'required':
          for (const name of listAt(value, there)) into.required.add(String(name));
          return;
        case 'items':
          into.items.push(placed(value));
          return;
        case 'additionalProperties':
        case 'unevaluatedProperties':
          if (value === false) into.closedAt ??= there;
          else if (value !== true && !(isObject(value) && Object.keys(value).length === 0)) into.others.push(placed(value));
          return;
        case 'oneOf':
        case 'anyOf': {
          const branches = listAt(value, there).map((each, index) => placed(each, index));
          const discriminator = isObject(schema.discriminator) ? schema.discriminator : undefined;
          into.alternatives.push({ keyword, branches, discriminator, at: there });
          return;
        }
        case 'not':
          into.nots.push(placed(value));
          return;
        case 'if': {
          const part = (name: 'then' | 'else') => {
            const place = inside(at, name);
            return name in schema ? { schema: schemaAt(schema[name], place), at: place } : undefined;
          };
          into.choosing.push({ asked: placed(value), held: part('then'), otherwise: part('else') });
          return;
        }
        case 'dependentRequired':
          for (const [on, needs] of Object.entries(objectAt(value, there)))
            into.dependent.push({ on, needs: listAt(needs, inside(there, on)).map(String), at: inside(there, on) });
          return;
        case 'nullable':
          throw new Unsupported(there, keyword, 'it is of OpenAPI 3.0; since 3.1 null is one of the types');
        default:
          if (!SILENT.has(keyword) && !keyword.startsWith('x-'))
            this.#note(there, keyword, 'it is no keyword of JSON Schema 2020-12, and overlooked');
      }
  }
}

const TYPES = ['null', 'boolean', 'object', 'array', 'number', 'string', 'integer'];

function typesIn(value: unknown, at: string): ReadonlySet<string> {
  const types = Array.isArray(value) ? value : [value];
  for (const type of types) if (!TYPES.includes(type)) throw new Unsupported(at, 'type', `${JSON.stringify(type)} is no type`);
  return new Set(types);
}

/** What both allow; an integer is a number. */
function crossed(one: ReadonlySet<string>, other: ReadonlySet<string>): ReadonlySet<string> {
  const has = (types: ReadonlySet<string>, type: string) => types.has(type) || (type === 'integer' && types.has('number'));
  return new Set([...one, ...other].filter((type) => has(one, type) && has(other, type)));
}

export function schemaAt(value: unknown, at: string): Schema | boolean {
  if (isObject(value) || typeof value === 'boolean') return value;
  throw new Unsupported(at, 'schema', 'no schema stands here, which is an object, true or false');
}

function listAt(value: unknown, at: string): readonly unknown[] {
  if (Array.isArray(value)) return value;
  throw new Unsupported(at, at.slice(at.lastIndexOf('/') + 1), 'a list should stand here');
}

function objectAt(value: unknown, at: string): Schema {
  if (isObject(value)) return value;
  throw new Unsupported(at, at.slice(at.lastIndexOf('/') + 1), 'an object should stand here');
}
