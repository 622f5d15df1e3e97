// A schema somewhere in a document, found by reference (RFC 6901, JSON Schema 2020-12 core, 8).

export type Schema = { readonly [keyword: string]: unknown };

/** A schema and where it stands: a JSON Pointer as a fragment, such as `#/components/schemas/Booking`. */
export interface Placed {
  readonly schema: Schema | boolean;
  readonly at: string;
}

/** What is not supported, by name and place. */
export interface Refused {
  /** A JSON Pointer as a fragment. */
  readonly at: string;
  readonly keyword: string;
  readonly why: string;
}

/** Stops reading the schema that it stands in. */
export class Unsupported extends Error {
  readonly refused: Refused;

  constructor(at: string, keyword: string, why: string) {
    super(`${at}: ${keyword}: ${why}`);
    this.refused = { at, keyword, why };
  }
}

export function inside(at: string, ...steps: readonly (string | number)[]): string {
  return [at, ...steps.map((step) => encodeURI(String(step)).replaceAll('~', '~0').replaceAll('/', '~1'))].join('/');
}

export function isObject(value: unknown): value is Schema {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** What a table says of a name that somebody else has chosen, such as `constructor`. */
export function ownOf<T>(table: { readonly [name: string]: T }, name: string): T | undefined {
  return Object.hasOwn(table, name) ? table[name] : undefined;
}

/** What references point to, in one document. */
export class Places {
  readonly #root: unknown;
  readonly #named = new Map<string, Placed>();

  constructor(root: unknown) {
    this.#root = root;
    this.#name(root, '#', '');
  }

  /** What stands at a reference. */
  found(reference: unknown, at: string): { readonly value: unknown; readonly at: string } {
    if (typeof reference !== 'string') throw new Unsupported(at, '$ref', 'a reference is text');
    const named = this.#named.get(reference) ?? this.#named.get(reference.replace(/^#(?!\/)/, '#:'));
    if (named) return { value: named.schema, at: named.at };
    const [address = '', fragment = ''] = reference.split('#');
    const start = address === '' ? { value: this.#root, at: '#' } : this.#document(address, at, reference);
    if (fragment === '') return start;
    if (!fragment.startsWith('/')) throw new Unsupported(at, '$ref', `nothing here is named ${reference}`);
    let { value } = start;
    for (const step of fragment.slice(1).split('/')) {
      const key = decoded(step).replaceAll('~1', '/').replaceAll('~0', '~');
      const isThere = typeof value === 'object' && value !== null && Object.hasOwn(value, key);
      if (!isThere) throw new Unsupported(at, '$ref', `nothing stands at ${reference}`);
      value = (value as { readonly [key: string]: unknown })[key];
    }
    return { value, at: `${start.at}${fragment}` };
  }

  #document(address: string, at: string, reference: string): { readonly value: unknown; readonly at: string } {
    const named = this.#named.get(address);
    if (!named) throw new Unsupported(at, '$ref', `it points out of the document, to ${reference}; put that into the document first`);
    return { value: named.schema, at: named.at };
  }

  /** Schemas that name themselves; of two that do alike, the first. */
  #name(value: unknown, at: string, base: string): void {
    if (Array.isArray(value)) for (const [index, each] of value.entries()) this.#name(each, inside(at, index), base);
    if (!isObject(value)) return;
    const { $id, $anchor } = value;
    let own = base;
    if (typeof $id === 'string') {
      own = resolvedAgainst($id, base);
      this.#put(own, { schema: value, at });
      this.#put($id, { schema: value, at });
    }
    if (typeof $anchor === 'string') {
      this.#put(`#:${$anchor}`, { schema: value, at });
      this.#put(`${own}#${$anchor}`, { schema: value, at });
    }
    for (const [key, inner] of Object.entries(value)) if (key !== 'enum' && key !== 'const') this.#name(inner, inside(at, key), own);
  }

  #put(name: string, placed: Placed): void {
    if (!this.#named.has(name)) this.#named.set(name, placed);
  }
}

function resolvedAgainst(id: string, base: string): string {
  try {
    return new URL(id, base === '' ? undefined : base).href;
  } catch {
    return id;
  }
}

function decoded(step: string): string {
  try {
    return decodeURIComponent(step);
  } catch {
    return step;
  }
}
