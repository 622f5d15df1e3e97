import type { Random } from './random.ts';
import type { Described, FieldDescription } from './random-intake.ts';

// Random submissions, stored records and changes for a described intake: near what is accepted, and here and there beside it.

type Json = unknown;

let entry = 0;

/** @param wild how often something is amiss, from 0 to 1 */
export function submissionFor(random: Random, fields: Described, wild: number): { [name: string]: Json } {
  const object: { [name: string]: Json } = {};
  for (const [name, field] of Object.entries(fields)) {
    if (random.next() < (field.presence === 'needed' ? wild / 2 : 0.35)) continue;
    object[name] = name === 'id' ? ++entry : valueFor(random, field, wild);
  }
  if ('id' in fields) object.id = ++entry;
  return object;
}

function valueFor(random: Random, field: FieldDescription, wild: number): Json {
  if (random.next() < wild / 4) return random.pick([null, 5, 'text', [], {}, [1], true, '', ' ']);
  switch (field.kind) {
    case 'text':
      return random.pick(['a', 'ab', 'abc', ...(random.next() < wild ? ['abcd', 'abcde'] : ['b'])]);
    case 'whole':
      return random.below(6) - (random.next() < wild ? 2 : 0) + (random.next() < wild ? 3 : 0);
    case 'group':
      return submissionFor(random, (field as { fields: Described }).fields, wild);
    case 'list':
      return Array.from({ length: random.below(4) }, () => submissionFor(random, (field as { each: Described }).each, wild));
    case 'table': {
      const { each } = field as { each: Described };
      return Object.fromEntries(['k', 'l', '7'].filter(() => random.below(2) === 0).map((key) => [key, submissionFor(random, each, wild)]));
    }
    default: {
      const { shapes } = field as { shapes: { [name: string]: Described } };
      const tag = random.pick(Object.keys(shapes));
      return { is: random.next() < wild / 3 ? 'z' : tag, ...submissionFor(random, shapes[tag] as Described, wild) };
    }
  }
}

/**
 * What a form can send of a submission: nothing where there is nothing.
 *
 * @param written a number as it is sent
 */
export function asSent(fields: Described, submission: object, written: (value: number) => Json): { [name: string]: Json } {
  return Object.fromEntries(
    Object.entries(submission).flatMap(([name, value]): [string, Json][] => {
      const field = fields[name];
      const sent = sentValue(field, value, written);
      return isNothing(sent) && field?.presence !== 'needed' ? [] : [[name, sent]];
    }),
  );
}

function isNothing(sent: Json): boolean {
  return typeof sent === 'object' && sent !== null && Object.values(sent).every(isNothing);
}

function sentValue(field: FieldDescription | undefined, value: Json, written: (value: number) => Json): Json {
  if (typeof value === 'number') return written(value);
  if (field && 'each' in field) {
    const { each } = field;
    if (Array.isArray(value)) return value.map((entry) => asSent(each, entry, written));
    return Object.fromEntries(Object.entries(value as object).map(([key, entry]) => [key, asSent(each, entry, written)]));
  }
  if (!isObject(value) || !field) return value;
  const inside = 'fields' in field ? field.fields : (field as { shapes: { [tag: string]: Described } }).shapes[value.is as string];
  return asSent(inside ?? {}, value, written);
}

/** Of typed values, that need not satisfy the rules; some fields were not loaded, some are empty. */
export function storedFor(random: Random, fields: Described, isWithin = false): { [name: string]: Json } {
  const object: { [name: string]: Json } = {};
  for (const [name, field] of Object.entries(fields)) {
    if (field.leftOut) continue;
    const chance = random.next();
    if (chance < (isWithin ? 0.2 : 0.12)) continue;
    object[name] = name === 'id' ? ++entry : chance < 0.25 ? null : storedValue(random, field);
  }
  if ('id' in fields) object.id = ++entry;
  return object;
}

function storedValue(random: Random, field: FieldDescription): Json {
  switch (field.kind) {
    case 'text':
      return random.pick(['a', 'abc', 'abcd']);
    case 'whole':
      return random.below(9) - 2;
    case 'group':
      return storedFor(random, (field as { fields: Described }).fields);
    case 'list':
      return Array.from({ length: random.below(3) }, () => storedFor(random, (field as { each: Described }).each, true));
    case 'table': {
      const { each } = field as { each: Described };
      return Object.fromEntries(['k', 'l'].filter(() => random.below(2) === 0).map((key) => [key, storedFor(random, each, true)]));
    }
    default: {
      const { shapes } = field as { shapes: { [name: string]: Described } };
      const tag = random.pick(Object.keys(shapes));
      return { is: tag, ...storedFor(random, shapes[tag] as Described) };
    }
  }
}

/** A merge patch that goes into what is stored, keeps entries, moves them, changes some. */
export function changeFor(random: Random, fields: Described, stored: Json): { [name: string]: Json } {
  const object: { [name: string]: Json } = {};
  const known = isObject(stored) ? stored : {};
  for (const [name, field] of Object.entries(fields)) {
    if (random.below(3) > 0 || name === 'id') continue;
    object[name] = changedValue(random, field, known[name]);
  }
  return object;
}

function changedValue(random: Random, field: FieldDescription, was: Json): Json {
  const chance = random.next();
  if (chance < 0.1) return null;
  if (chance < 0.25 || was === undefined || was === null) return valueFor(random, field, 0.3);
  if (field.kind === 'group') return changeFor(random, (field as { fields: Described }).fields, was);
  if (field.kind === 'shapes' && isObject(was)) {
    const { shapes } = field as { shapes: { [name: string]: Described } };
    const tag = random.below(3) === 0 ? random.pick(Object.keys(shapes)) : (was.is as string);
    const change = changeFor(random, shapes[tag] as Described, was);
    return tag === was.is && random.below(2) === 0 ? change : { is: tag, ...change };
  }
  if (field.kind === 'table' && isObject(was)) {
    const { each } = field as { each: Described };
    const changes = Object.entries(was).map(
      ([key, value]) => [key, random.below(4) === 0 ? null : changeFor(random, each, value)] as const,
    );
    return Object.fromEntries([
      ...changes.filter(() => random.below(2) === 0),
      ...(random.below(2) ? [['m', submissionFor(random, each, 0.2)]] : []),
    ]);
  }
  if (field.kind === 'list' && Array.isArray(was)) {
    const { each } = field as { each: Described };
    const kept = was.map((value) => (random.below(3) > 0 ? value : merged(value, changeFor(random, each, value))));
    const moved = random.below(3) === 0 ? [...was].reverse() : kept;
    return random.below(2) === 0 ? moved : [...moved, submissionFor(random, each, 0.2)];
  }
  return random.below(3) === 0 ? was : valueFor(random, field, 0.3);
}

function merged(value: Json, change: object): Json {
  return { ...(value as object), ...change };
}

export function isObject(value: unknown): value is { readonly [name: string]: unknown } {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
