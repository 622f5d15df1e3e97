import { EXACT_PATTERN } from '../core/kinds/exact.ts';
import { type Argument, type Call, call, type FieldDraft, type FieldDrafts } from '../drafts/draft.ts';
import { combinedRules, shapesOf, valuesOfBranches, withoutNull } from './alternatives.ts';
import { rulesBetween } from './between.ts';
import type { Gathered } from './gathered.ts';
import { type Placed, Unsupported } from './places.ts';
import { isComposite, type Members, type Reading } from './reading.ts';
import { type Kinded, refuseLimits, scalarOf, sizeOf } from './scalars.ts';

/** The schemas that a field stands inside, outermost first, each with what it refers to. */
export type Around = readonly ReadonlySet<string>[];

/** The members of an object, and the rules between them. */
export function membersOf(gathered: Gathered, reading: Reading, around: Around): Members {
  const { properties, required, others, closedAt } = gathered;
  refuseLimits(gathered, []);
  for (const { at } of others)
    reading.attempted(() => {
      throw new Unsupported(at, 'additionalProperties', 'fields have names, and a table has entries that are all alike; this has both');
    });
  const isLeftOut = (placed: readonly Placed[]) => {
    const { remarks } = reading.gatherer.gathered(...placed);
    return (reading.direction === 'received' && remarks.readOnly) || (reading.direction === 'sent' && remarks.writeOnly);
  };
  const inner = [...around, gathered.referred];
  const fields: { [key: string]: FieldDraft } = {};
  const cut: string[] = [];
  for (const [key, placed] of properties)
    reading.attempted(() => {
      if (isLeftOut(placed)) return;
      const field = fieldOf(key, placed, required.has(key), reading, inner);
      if (field === 'cut' && required.has(key)) throw new Unsupported(placed[0]?.at ?? gathered.at, '$ref', 'it needs itself, without end');
      if (field === 'cut') cut.push(key);
      fields[key] = field === 'cut' ? { ...group(labelOf(key, {}), {}), modifiers: [call('orAbsent')] } : field;
    });
  for (const key of required)
    if (!properties.has(key))
      reading.attempted(() => {
        throw new Unsupported(gathered.at, 'required', `"${key}" is none of the properties, so that it may be anything`);
      });
  const rules = reading.attempted(() => rulesBetween(gathered, fields, reading)) ?? [];
  if (closedAt !== undefined && around.length > 0)
    reading.note(closedAt, 'additionalProperties', 'what is refused is decided for the intake as a whole');
  return { fields, rules: [...cut.map((key) => call('absent', key)), ...rules] };
}

function group(label: string, fields: FieldDrafts, rules: readonly Call[] = []): FieldDraft {
  return { kind: 'group', label, args: [fields, ...rules], modifiers: [], remarks: [] };
}

/** One field; `cut` where it stands inside of itself too often, and must not be there. */
function fieldOf(key: string, placed: readonly Placed[], isNeeded: boolean, reading: Reading, around: Around): FieldDraft | 'cut' {
  const gathered = reading.gatherer.gathered(...placed);
  const isNull = withoutNull(gathered, reading);
  const label = labelOf(key, gathered.remarks);
  const times = around.filter((each) => [...gathered.referred].some((place) => isComposed(place, gathered) && each.has(place))).length;
  const type = typeOf(gathered, reading);
  if (times > reading.circles) {
    reading.count(gathered.at);
    reading.note(gathered.at, '$ref', `it contains itself: ${reading.circles} levels of it are read, and a deeper one is refused`);
    return 'cut';
  }
  const kinded = kindOf(gathered, type, label, isNeeded, reading, around);
  return reading.field(gathered.at, finished(kinded, gathered, label, isNeeded, isNull, reading));
}

/** A circle goes through a reference, not through what merely stands in the same place. */
function isComposed(place: string, { at, referred }: Gathered): boolean {
  return place !== at || referred.size === 1;
}

function finished(kinded: Kinded, gathered: Gathered, label: string, isNeeded: boolean, isNull: boolean, reading: Reading): FieldDraft {
  const { kind, args } = kinded;
  const { remarks } = gathered;
  const modifiers = kinded.modifiers.filter((each) => isNeeded || each.call !== 'blankAllowed');
  const isFilled = !isNeeded && 'default' in remarks && isScalar(remarks.default) && !isComposite(kind) && reading.direction !== 'sent';
  if (isFilled) modifiers.push(call('orElse', remarks.default as Argument));
  else if (!isNeeded) modifiers.push(call('orAbsent'));
  if (isNull && isComposite(kind)) {
    // Null counts as missing; where the field is needed, it may then be missing too.
    reading.note(gathered.at, 'type', 'null counts as missing here');
    if (isNeeded) modifiers.push(call('orAbsent'));
  } else if (isNull) modifiers.push(call('orNull'));
  return { kind, label, args, modifiers, remarks: remarks.description === undefined ? [] : [remarks.description] };
}

function isScalar(value: unknown): boolean {
  return ['string', 'number', 'boolean'].includes(typeof value);
}

/** What a field is; its alternatives are told apart, where there are some. */
function kindOf(gathered: Gathered, type: string, label: string, isNeeded: boolean, reading: Reading, around: Around): Kinded {
  const { alternatives } = gathered;
  if (type === 'object') {
    const shapes = shapesOf(gathered, reading, (each) => membersOf(each, reading, [...around, gathered.referred]));
    if (shapes) return { kind: 'oneOfShapes', args: [shapes.tag, shapes.shapes], modifiers: [] };
    return objectOf(gathered, label, reading, around);
  }
  if (type === 'array') {
    for (const { at, keyword } of alternatives) throw new Unsupported(at, keyword, 'a list is no choice between lists');
    return listOf(gathered, label, reading, around);
  }
  if (type === 'anything') return anything(gathered, [...(gathered.types ?? [])]);
  const labelled = valuesOfBranches(gathered, type, reading);
  if (labelled) return { kind: 'choice', args: [labelled], modifiers: [] };
  const kinded = scalarOf(gathered, type, isNeeded, reading);
  const rules = combinedRules(gathered, type, kinded.kind, reading);
  return { ...kinded, args: [...kinded.args, ...rules] };
}

function objectOf(gathered: Gathered, label: string, reading: Reading, around: Around): Kinded {
  const { properties, others } = gathered;
  if (properties.size > 0 || others.length === 0) {
    if (properties.size === 0 && gathered.required.size === 0 && gathered.closedAt === undefined) return anything(gathered, ['object']);
    const { fields, rules } = membersOf(gathered, reading, around);
    return { kind: 'group', args: [fields, ...rules], modifiers: [] };
  }
  const size = sizeOf(gathered.limits, 'minProperties', 'maxProperties');
  const each = entryOf(label, others, reading, [...around, gathered.referred]);
  const limits = each ? size && reading.call(size.at, size.keyword, 'length', size.limits) : NONE;
  return { kind: 'table', args: [each ?? group(label, {}), ...(limits ? [limits] : [])], modifiers: [] };
}

/** Of what may not be there, since it stands inside of itself too often. */
const NONE = call('length', { max: 0 });

function listOf(gathered: Gathered, label: string, reading: Reading, around: Around): Kinded {
  const { items, limits, at } = gathered;
  if (items.length === 0 && limits.length === 0) return anything(gathered, ['array']);
  refuseLimits(gathered, ['minItems', 'maxItems', 'uniqueItems']);
  const each = entryOf(label, items.length > 0 ? items : [{ schema: true, at }], reading, [...around, gathered.referred]);
  if (!each) return { kind: 'list', args: [group(label, {}), NONE], modifiers: [] };
  const size = sizeOf(limits, 'minItems', 'maxItems');
  const rules = [
    ...(size ? [reading.call(size.at, size.keyword, 'length', size.limits)] : []),
    ...(limits.some(({ keyword, value }) => keyword === 'uniqueItems' && value === true) ? [call('distinct')] : []),
  ];
  return { kind: 'list', args: [each, ...rules], modifiers: [] };
}

/** What a list or table has many of; `undefined` where none may be there. */
function entryOf(label: string, placed: readonly Placed[], reading: Reading, around: Around): FieldDraft | undefined {
  const entry = fieldOf(label, placed, true, reading, around);
  return entry === 'cut' ? undefined : entry;
}

/** What nobody judges but for its type. */
function anything(gathered: Gathered, types: readonly string[]): Kinded {
  const { limits, formats, values, properties, items, alternatives, nots, others, at } = gathered;
  const [besides] = [...limits, ...values, ...formats, ...alternatives, ...nots, ...others];
  const isMore = besides !== undefined || properties.size + items.length > 0;
  if (isMore) throw new Unsupported(besides?.at ?? at, 'type', 'what is of several types, or of any, is judged by its type only');
  const told = types.filter((type) => type !== 'null' && !(type === 'integer' && types.includes('number')));
  return { kind: 'jsonValue', args: told.length > 0 ? [call('jsonTypes', told)] : [], modifiers: [] };
}

const TYPES_OF: readonly (readonly [type: string, of: (gathered: Gathered) => boolean])[] = [
  ['object', ({ properties, required, others, dependent }) => properties.size + required.size + others.length + dependent.length > 0],
  ['array', ({ items }) => items.length > 0],
  ['string', ({ formats, limits }) => formats.length > 0 || limits.some(({ keyword }) => /Length|pattern|Encoding/.test(keyword))],
  ['number', ({ limits }) => limits.some(({ keyword }) => /imum|multipleOf/.test(keyword))],
];

/** The one type that a schema is about, null apart. */
export function typeOf(gathered: Gathered, reading: Reading): string {
  const { types, values, at } = gathered;
  const named = types && [...types].filter((type) => type !== 'null');
  // A number is an integer, too.
  const told = named?.includes('number') ? named.filter((type) => type !== 'integer') : named;
  if (told?.length === 1) return told[0] as string;
  if (told && isExact(told, gathered)) return 'exact';
  if (told && told.length > 1 && values.length === 0) return 'anything';
  if (told?.length === 0) throw new Unsupported(at, 'type', 'nothing but null fits it');
  if (values.length > 0) {
    const listed = new Set(values.flatMap(({ values: each }) => each.filter((value) => value !== null)).map((value) => typeof value));
    const [only] = listed;
    if (listed.size === 1 && only && only !== 'object') return only === 'number' ? 'number' : only;
    throw new Unsupported(values[0]?.at ?? at, 'enum', 'a choice is of texts or of numbers');
  }
  const found = TYPES_OF.find(([, of]) => of(gathered));
  if (found) return found[0];
  const [alternatives] = gathered.alternatives;
  if (alternatives) {
    const each = new Set(alternatives.branches.map((branch) => typeOf(reading.gatherer.gathered(branch), reading)));
    const [only] = each;
    if (only !== undefined && each.size === 1) return only;
    if ([...each].every((type) => type === 'number' || type === 'integer')) return 'number';
    throw new Unsupported(alternatives.at, alternatives.keyword, `a field is of one kind, and not of ${[...each].join(' or ')}`);
  }
  return 'anything';
}

/** A decimal number that is kept exactly is sent as text or as a number. */
function isExact(types: readonly string[], { limits }: Gathered): boolean {
  const [only] = limits;
  return types.length === 2 && types.includes('string') && types.includes('number') && limits.length === 1 && only?.value === EXACT_PATTERN;
}

/** `berthCode` becomes “Berth code”. */
export function labelOf(key: string, { title }: { readonly title?: string }): string {
  if (title !== undefined && title.trim() !== '') return title;
  const words = key
    .replaceAll(/([a-z0-9])([A-Z])/g, '$1 $2')
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map((word) => (/^[A-Z0-9]+$/.test(word) ? word : word.toLowerCase()));
  const label = words.join(' ') || key;
  return label.charAt(0).toUpperCase() + label.slice(1);
}
