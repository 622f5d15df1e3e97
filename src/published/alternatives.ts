import { type Argument, type Call, call, type FieldDrafts } from '../drafts/draft.ts';
import type { Alternatives, Gathered } from './gathered.ts';
import { isObject, type Placed, Unsupported } from './places.ts';
import type { Members, Reading } from './reading.ts';
import { numberRules, refuseLimits, textRules } from './scalars.ts';

/** Takes null out of what a schema allows, and says whether it was there. Alternatives of which one is left are none. */
export function withoutNull(gathered: Gathered, reading: Reading): boolean {
  const allowsNull =
    gathered.values.every(({ values }) => values.includes(null)) &&
    (gathered.types?.has('null') ?? true) &&
    gathered.nots.every((not) => excludesNull(not, reading));
  let isAmong =
    gathered.types?.has('null') === true || (gathered.types === undefined && gathered.values.some(({ values }) => values.includes(null)));
  for (const each of [...gathered.alternatives]) {
    const branches = each.branches.map((branch) => reading.gatherer.followed(branch));
    const left = branches.filter(({ schema }) => !isNullOnly(schema));
    if (left.length === branches.length && left.length > 1) continue;
    if (left.length < branches.length) isAmong = true;
    gathered.alternatives.splice(gathered.alternatives.indexOf(each), 1);
    if (left.length === 1) reading.gatherer.add(left[0] as Placed, gathered);
    else if (left.length > 1) gathered.alternatives.push({ ...each, branches: left });
  }
  return isAmong && allowsNull;
}

/** Whether null does not fit: a limit by itself says nothing of it. */
function excludesNull(placed: Placed, reading: Reading): boolean {
  const { types, values } = reading.gatherer.gathered(placed);
  return types?.has('null') === false || values.some(({ values: each }) => !each.includes(null));
}

function isNullOnly(schema: Placed['schema']): boolean {
  return (
    isObject(schema) &&
    (schema.type === 'null' || schema.const === null || (Array.isArray(schema.enum) && schema.enum.every((value) => value === null)))
  );
}

/** Alternatives that each name one value: options with words for people. */
export function valuesOfBranches(gathered: Gathered, type: string, reading: Reading): Argument | undefined {
  const [alternatives, ...others] = gathered.alternatives;
  if (!alternatives || others.length > 0 || gathered.values.length > 0) return undefined;
  const branches = alternatives.branches.map((branch) => reading.gatherer.gathered(branch));
  if (!branches.every(({ values, limits, formats }) => values.length === 1 && limits.length === 0 && formats.length === 0))
    return undefined;
  const wanted = type === 'string' ? 'string' : 'number';
  const options = branches.flatMap(({ values, remarks }) =>
    (values[0]?.values ?? []).map((value) => ({ value, label: remarks.title ?? String(value) })),
  );
  if (!options.every(({ value }) => typeof value === wanted)) return undefined;
  const distinct = new Set(options.map(({ value }) => value));
  if (distinct.size < options.length) throw new Unsupported(alternatives.at, alternatives.keyword, 'two alternatives have one value');
  refuseLimits(gathered, []);
  gathered.alternatives.length = 0;
  if (options.every(({ value, label }) => String(value) === label)) return options.map(({ value }) => value) as unknown as Argument;
  return call('labelled', options.map(({ value, label }) => [value, label]) as unknown as Argument);
}

/** What alternatives, and what must not be, demand of one value. */
export function combinedRules(gathered: Gathered, type: string, kind: string, reading: Reading): Call[] {
  const label = gathered.remarks.title;
  const rules: Call[] = [];
  for (const { keyword, branches, at } of gathered.alternatives) {
    if (keyword === 'oneOf') throw new Unsupported(at, keyword, 'no rule asks that exactly one of several limits holds');
    const parts = branches.map((branch) => rulesOf(branch, type, kind, at, keyword, reading));
    const each = parts.map((part) =>
      part.length === 1 ? (part[0] as Call) : call('satisfiesAll', part, { message: '{field} must fit.' }),
    );
    rules.push(
      reading.call(at, keyword, 'satisfiesAny', each, {
        message: `{field} must be one of the kinds of ${label ?? 'value'} that are described.`,
        as: `any-of-${rules.length + 1}`,
      }),
    );
  }
  for (const not of gathered.nots) {
    const part = reading.gatherer.gathered(not);
    const [values, ...others] = part.values;
    if (values && others.length === 0 && part.limits.length === 0) {
      const named = values.values.filter((value) => value !== null);
      if (named.length > 0) rules.push(reading.call(not.at, 'not', 'forbidden', named as unknown as Argument));
      continue;
    }
    const inner = rulesOf(not, type, kind, not.at, 'not', reading);
    const all = inner.length === 1 ? inner : [call('satisfiesAll', inner, { message: '{field} must fit.' })];
    rules.push(
      reading.call(not.at, 'not', 'satisfiesNone', all, {
        message: '{field} must not be of a form that is excluded.',
        as: `none-of-${rules.length + 1}`,
      }),
    );
  }
  return rules;
}

function rulesOf(branch: Placed, type: string, kind: string, at: string, keyword: string, reading: Reading): Call[] {
  const part = reading.gatherer.gathered(branch);
  const types = part.types && [...part.types];
  const isAlike = !types || types.every((each) => each === type || (type === 'number' && each === 'integer'));
  if (!isAlike || (types?.includes('integer') && type === 'number'))
    throw new Unsupported(branch.at, 'type', `a field is of one kind, and this is none of ${type}`);
  if (part.alternatives.length + part.nots.length + part.properties.size + part.items.length > 0)
    throw new Unsupported(at, keyword, 'what is inside of it is no rule about one value');
  if (kind !== 'text' && kind !== 'whole' && kind !== 'decimal') throw new Unsupported(at, keyword, `no rule about a ${kind} says it`);
  const rules = type === 'string' ? textRules(part, reading) : numberRules(part, type, reading);
  const listed = part.values.map(({ values }) => call('allowed', values as Argument));
  const all = [...rules, ...listed];
  if (all.length === 0) throw new Unsupported(branch.at, keyword, 'it demands nothing that is known here');
  return all;
}

/** Objects of several shapes, told apart by a text under one key. */
export function shapesOf(
  gathered: Gathered,
  reading: Reading,
  membersOf: (gathered: Gathered) => Members,
): { readonly tag: string; readonly shapes: { readonly [name: string]: Call } } | undefined {
  const told = taggedIn(gathered, reading);
  if (!told) return undefined;
  const { tag, alternatives, branches } = told;
  const shapes: { [name: string]: Call } = {};
  for (const { names, branch } of branches) {
    const whole = reading.gatherer.gathered(...told.common, branch);
    // What they have in common has its alternatives among what is gathered: this one is chosen.
    whole.alternatives.splice(0, whole.alternatives.length, ...whole.alternatives.filter(({ at }) => at !== alternatives.at));
    whole.properties.delete(tag);
    whole.required.delete(tag);
    const { fields, rules } = membersOf(whole);
    for (const name of names) {
      if (Object.hasOwn(shapes, name))
        throw new Unsupported(alternatives.at, alternatives.keyword, `two alternatives are called "${name}"`);
      shapes[name] = call('shape', fields as FieldDrafts, ...rules);
    }
  }
  return { tag, shapes };
}

export interface Tagged {
  readonly tag: string;
  readonly alternatives: Alternatives;
  /** What holds for all of them: the schemas that they stand in. */
  readonly common: readonly Placed[];
  readonly branches: readonly { readonly names: readonly string[]; readonly branch: Placed }[];
}

/** Alternatives that a text under one key tells apart; `undefined` where there are none, or they are about what is there. */
export function taggedIn(gathered: Gathered, reading: Reading): Tagged | undefined {
  const objects = gathered.alternatives.filter(({ branches }) => !branches.every((branch) => isAboutPresence(branch, reading)));
  const [alternatives, ...others] = objects;
  if (!alternatives) return undefined;
  if (others.length > 0)
    throw new Unsupported((others[0] as Alternatives).at, (others[0] as Alternatives).keyword, 'one object has one choice of shapes');
  const { branches, discriminator, at, keyword } = alternatives;
  const parts = branches.map((branch) => ({ branch, part: reading.gatherer.gathered(branch), to: reading.gatherer.followed(branch).at }));
  const valuesAt = (part: Gathered, key: string) => {
    const placed = part.properties.get(key);
    const values = placed && reading.gatherer.gathered(...placed).values[0]?.values;
    return values?.every((value): value is string => typeof value === 'string') ? values : undefined;
  };
  const named = discriminator?.propertyName;
  const keys = typeof named === 'string' ? [named] : [...(parts[0]?.part.properties.keys() ?? [])];
  const isRequired = (key: string) => gathered.required.has(key) || parts.every(({ part }) => part.required.has(key));
  const tag = keys.find(
    (key) => typeof named === 'string' || (isRequired(key) && parts.every(({ part }) => valuesAt(part, key) !== undefined)),
  );
  if (tag === undefined)
    throw new Unsupported(
      at,
      keyword,
      'nothing tells the alternatives apart: each needs one property with a const of its own, that is required',
    );
  const mapping = isObject(discriminator?.mapping) ? Object.entries(discriminator.mapping) : [];
  const namesOf = ({ part, to, branch }: (typeof parts)[number]): readonly string[] => {
    const mapped = mapping.filter(([, reference]) => reference === to || to.endsWith(`/${reference}`)).map(([name]) => name);
    if (mapped.length > 0) return mapped;
    const values = valuesAt(part, tag);
    if (values) return values;
    const reference = isObject(branch.schema) ? branch.schema.$ref : undefined;
    if (typeof reference !== 'string') throw new Unsupported(branch.at, keyword, `nothing says what "${tag}" is in this alternative`);
    return [reference.slice(reference.lastIndexOf('/') + 1)];
  };
  if (typeof named === 'string' && !isRequired(tag)) reading.note(at, 'discriminator', `"${tag}" is needed, though it is not required`);
  return {
    tag,
    alternatives,
    common: gathered.sources,
    branches: parts.map((each) => ({ names: namesOf(each), branch: each.branch })),
  };
}

/** Whether an alternative asks only what is there. */
export function isAboutPresence(branch: Placed, reading: Reading): boolean {
  const { schema } = reading.gatherer.followed(branch);
  return (
    isObject(schema) &&
    Object.keys(schema).every((keyword) => keyword === 'required' || keyword === 'type' || keyword === 'title') &&
    'required' in schema
  );
}
