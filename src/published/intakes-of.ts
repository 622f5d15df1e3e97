import { fault, nearest } from '../core/basics/fault.ts';
import type { BuiltIntake } from '../drafts/built.ts';
import type { IntakeDraft } from '../drafts/draft.ts';
import { readIntake } from './intake-of.ts';
import type { Operation } from './operation.ts';
import { operationsIn } from './operations-in.ts';
import { inside, isObject, type Placed, Places, type Refused } from './places.ts';
import type { ReadingOptions } from './reading.ts';

/** How a document is read. */
export interface PublishedOptions extends Pick<ReadingOptions, 'circles' | 'blanks'> {
  /** The name of the intake of a schema that has no title. Defaults to `submission`. */
  readonly name?: string;
}

/** What an intake or operation cannot have. */
interface Told extends Refused {
  /** The name of the intake, or the id of the operation. */
  readonly of: string;
}

/** The intakes of a document. */
export interface Published {
  /** Of the schemas of objects, by their names. */
  readonly intakes: ReadonlyMap<string, BuiltIntake>;
  /** Of OpenAPI, by their ids; one without an id is called by its method and path, such as `get /berths`. */
  readonly operations: ReadonlyMap<string, Operation>;
  /** What is not supported, by name and place: the intakes and operations that it is of are not there. */
  readonly refused: readonly Told[];
  /** What is read otherwise than it is written, or is not checked. */
  readonly notes: readonly Told[];
  /** How the intakes would be declared. */
  readonly drafts: ReadonlyMap<string, IntakeDraft>;
  /** @throws Fault that says why there is none */
  intake(name: string): BuiltIntake;
  /** @throws Fault that says why there is none */
  operation(id: string): Operation;
  /** The operation that a request is for, by its method and path; `undefined` where it is for none. */
  operationFor(method: string, url: string): Operation | undefined;
}

/**
 * The intakes that a published description is: a JSON Schema (2020-12), or the schemas and operations of OpenAPI 3.1. A schema is read as it
 * decides; null counts as missing where a field may be missing. What no intake can say is refused by name and place.
 *
 * @throws Fault when the document is neither
 */
export function intakesOf(document: object, options: PublishedOptions = {}): Published {
  if (!isObject(document)) fault('intakesOf needs a document: the object that its JSON is.');
  const places = new Places(document);
  const refused: Told[] = [];
  const notes: Told[] = [];
  const add = (all: Told[], of: string, { at, keyword, why }: Refused): void => {
    if (!all.some((each) => each.of === of && each.at === at && each.keyword === keyword)) all.push({ of, at, keyword, why });
  };
  const intakes = new Map<string, BuiltIntake>();
  const drafts = new Map<string, IntakeDraft>();
  const read = (name: string, placed: Placed): void => {
    const found = readIntake(name, placed, places, options);
    for (const each of found.refused) add(refused, name, each);
    for (const each of found.notes) add(notes, name, each);
    if (!found.intake || !found.draft) return;
    intakes.set(name, found.intake);
    drafts.set(name, found.draft);
  };
  const isOpenApi = 'openapi' in document || 'swagger' in document;
  if (isOpenApi && !(typeof document.openapi === 'string' && /^3\.1\./.test(document.openapi)))
    fault(
      `intakesOf reads OpenAPI 3.1, and this document is of ${JSON.stringify(document.openapi ?? document.swagger)}; convert it first.`,
    );
  for (const [name, schema, at] of isOpenApi ? componentsOf(document) : schemasOf(document, options.name)) {
    // What is a text or a list by itself is part of others, and no intake.
    if (!isObject(schema))
      add(refused, name, { at, keyword: 'schema', why: 'an intake is of an object, and no schema of one stands here' });
    else if (isOfObject({ schema, at })) read(name, { schema, at });
  }
  const operations = isOpenApi
    ? operationsIn(document, places, options, {
        refuse: (of, each) => add(refused, of, each),
        note: (of, each) => add(notes, of, each),
      })
    : new Map<string, Operation>();
  const missing = (kind: string, name: string, known: Iterable<string>): never => {
    const why = refused.filter(({ of }) => of === name);
    if (why.length > 0) return fault(`${kind} "${name}" cannot be read: ${why.map((each) => `${each.at}: ${each.why}`).join('; ')}.`);
    return fault(`The document has no ${kind.toLowerCase()} "${name}"; ${nearest(name, [...known])}`);
  };
  return {
    intakes,
    operations,
    refused,
    notes,
    drafts,
    intake: (name) => intakes.get(name) ?? missing('Schema', name, intakes.keys()),
    operation: (id) => operations.get(id) ?? missing('Operation', id, operations.keys()),
    operationFor: (method, url) => [...operations.values()].filter((each) => each.isFor(method, url)).sort(moreExact)[0],
  };
}

/** `/berths/free` is nearer than `/berths/{code}`. */
function moreExact(one: Operation, other: Operation): number {
  return count(one) - count(other);
}

function count({ path }: Operation): number {
  return path.split('{').length;
}

type NamedSchema = readonly [name: string, schema: unknown, at: string];

function schemasOf(document: { readonly [keyword: string]: unknown }, name = 'submission'): NamedSchema[] {
  const { title, $defs } = document;
  const own: NamedSchema[] = [[typeof title === 'string' && title.trim() !== '' ? title : name, document, '#']];
  const isOnlyOthers = Object.keys(document).every((keyword) => keyword.startsWith('$') && keyword !== '$ref');
  return [
    ...(isOnlyOthers ? [] : own),
    ...Object.entries(isObject($defs) ? $defs : {}).map(([key, schema]): NamedSchema => [key, schema, inside('#', '$defs', key)]),
  ];
}

function componentsOf({ components }: { readonly [keyword: string]: unknown }): NamedSchema[] {
  const schemas = isObject(components) && isObject(components.schemas) ? components.schemas : {};
  return Object.entries(schemas).map(([key, schema]) => [key, schema, inside('#', 'components', 'schemas', key)]);
}

function isOfObject({ schema, at }: Placed): boolean {
  if (at === '#') return true;
  if (!isObject(schema)) return false;
  const { type, properties, allOf, oneOf, $ref, discriminator } = schema;
  return type === 'object'
    ? properties !== undefined || allOf !== undefined || oneOf !== undefined
    : type === undefined && [properties, allOf, $ref, discriminator].some((each) => each !== undefined);
}
