import { type Argument, type Call, call, type FieldDrafts } from '../drafts/draft.ts';
import { isAboutPresence } from './alternatives.ts';
import type { Gathered } from './gathered.ts';
import { isObject, ownOf, type Placed, Unsupported } from './places.ts';
import type { Reading } from './reading.ts';

/** A condition, or what is always so. */
type Asked = Call | boolean;

/** What must be there, or must not, and when. */
class Presence {
  readonly #asked = new Map<string, { readonly rule: 'needed' | 'absent'; readonly field: string; readonly when: Asked[] }>();

  add(rule: 'needed' | 'absent', field: string, when: Asked): void {
    const key = `${rule} ${field}`;
    const known = this.#asked.get(key) ?? { rule, field, when: [] };
    this.#asked.set(key, known);
    known.when.push(when);
  }

  rules(): Call[] {
    return [...this.#asked.values()].flatMap(({ rule, field, when }) => {
      const asked = anyOf(when);
      if (asked === false) return [];
      return [asked === true ? call(rule, field) : call(rule, field, { when: asked })];
    });
  }
}

/** The rules between the members of one object. */
export function rulesBetween(gathered: Gathered, fields: FieldDrafts, reading: Reading): Call[] {
  const { dependent, choosing, alternatives, nots, required } = gathered;
  const presence = new Presence();
  const known = (field: string, at: string, keyword: string): string => {
    if (!Object.hasOwn(fields, field)) throw new Unsupported(at, keyword, `"${field}" is none of the properties`);
    return field;
  };
  const rules: Call[] = [];
  for (const { on, needs, at } of dependent)
    for (const need of needs)
      if (!required.has(need))
        presence.add('needed', known(need, at, 'dependentRequired'), isThere(known(on, at, 'dependentRequired'), required));
  for (const each of choosing) choose(each, true);
  for (const { keyword, branches, at } of alternatives) {
    if (!branches.every((branch) => isAboutPresence(branch, reading)))
      throw new Unsupported(
        at,
        keyword,
        'alternatives of an object are told apart by one property with a const in each, or are about what is required',
      );
    const named = branches.map((branch) => reading.gatherer.gathered(branch).required);
    if (!named.every((each) => each.size === 1)) throw new Unsupported(at, keyword, 'each alternative may require one property');
    const all = named.map((each) => known([...each][0] as string, at, keyword));
    if (all.length > 1) rules.push(call(keyword === 'oneOf' ? 'exactlyOneOf' : 'atLeastOneOf', ...all));
    else if (!required.has(all[0] as string)) presence.add('needed', all[0] as string, true);
  }
  for (const not of nots) demand({ schema: { not: not.schema }, at: not.at.replace(/\/not$/, '') }, true);
  refuseFilled();
  return [...presence.rules(), ...rules];

  function choose({ asked, held, otherwise }: Gathered['choosing'][number], outer: Asked): void {
    const holds = conditionOf(asked, reading, required, fields);
    if (held) demand(held, both(outer, holds));
    if (otherwise) demand(otherwise, both(outer, negated(holds)));
  }

  /** What a schema asks of the same object besides. */
  function demand(placed: Placed, when: Asked): void {
    if (placed.schema === true) return;
    if (placed.schema === false) throw new Unsupported(placed.at, 'false', 'nothing fits it');
    const { allowed, left } = split(placed);
    for (const key of left) presence.add('absent', known(key, placed.at, 'properties'), when);
    const part = reading.gatherer.gathered(allowed);
    for (const key of part.required) if (!required.has(key)) presence.add('needed', known(key, placed.at, 'required'), when);
    for (const each of part.choosing) choose(each, when);
    for (const not of part.nots) {
      const inner = reading.gatherer.gathered(not);
      const [key, ...more] = inner.required;
      if (key === undefined || more.length > 0 || inner.properties.size + inner.values.length + inner.nots.length > 0)
        throw new Unsupported(not.at, 'not', 'no rule says it, but for one property that is not required');
      presence.add('absent', known(key, not.at, 'not'), when);
    }
    for (const [key, placed] of part.properties)
      throw new Unsupported((placed[0] as Placed).at, 'properties', `what "${key}" has to be does not depend on other fields`);
    for (const { at, keyword } of part.alternatives) throw new Unsupported(at, keyword, 'no rule says it under a condition');
    if (part.dependent.length > 0) throw new Unsupported(placed.at, 'dependentRequired', 'no rule says it under a condition');
  }

  /** Whether a field is there is asked of what was sent: a default would always be there. */
  function refuseFilled(): void {
    const asked = JSON.stringify([...presence.rules(), ...rules]);
    for (const [key, { modifiers }] of Object.entries(fields)) {
      const at = modifiers.findIndex((each) => each.call === 'orElse');
      if (at < 0 || !asked.includes(JSON.stringify(key))) continue;
      (modifiers as Call[])[at] = call('orAbsent');
      reading.note(gathered.at, 'default', `"${key}" has none, since other rules ask whether it is there`);
    }
  }
}

/** `properties: { x: false }` says that a property must not be there. */
function split({ schema, at }: Placed): { readonly allowed: Placed; readonly left: readonly string[] } {
  if (!isObject(schema) || !isObject(schema.properties)) return { allowed: { schema, at }, left: [] };
  const entries = Object.entries(schema.properties);
  return {
    allowed: {
      schema: { ...schema, properties: Object.fromEntries(entries.filter(([, inner]) => inner !== false && inner !== true)) },
      at,
    },
    left: entries.filter(([, inner]) => inner === false).map(([key]) => key),
  };
}

/** When the schema of an `if` holds. */
function conditionOf(placed: Placed, reading: Reading, required: ReadonlySet<string>, fields: FieldDrafts): Asked {
  if (typeof placed.schema === 'boolean') return placed.schema;
  const part = reading.gatherer.gathered(placed);
  const parts: Asked[] = [];
  const refuse = (at: string, keyword: string): never => {
    throw new Unsupported(at, keyword, 'a condition asks which of some values a property has, or whether it is there');
  };
  for (const key of part.required) if (!part.properties.has(key)) parts.push(isThere(key, required));
  for (const [key, inner] of part.properties) {
    const field = ownOf(fields, key);
    const { at } = inner[0] as Placed;
    if (!field) throw new Unsupported(at, 'if', `"${key}" is none of the properties`);
    if (field.modifiers.some((each) => each.call === 'orNull'))
      throw new Unsupported(at, 'if', `"${key}" may be null, which a condition does not compare`);
    const own = reading.gatherer.gathered(...inner);
    const excluded = own.nots.map((not) => reading.gatherer.gathered(not));
    const isPlain = (each: Gathered) =>
      each.values.length === 1 && each.limits.length + each.properties.size + each.alternatives.length + each.required.size === 0;
    let compared: Asked;
    if (isPlain(own) && excluded.length === 0) compared = equal(key, own);
    else if (own.values.length === 0 && excluded.length === 1 && excluded.every(isPlain))
      compared = negated(equal(key, excluded[0] as Gathered));
    else return refuse(at, 'if');
    if (required.has(key)) parts.push(compared);
    else parts.push(part.required.has(key) ? both(isThere(key, required), compared) : anyOf([negated(isThere(key, required)), compared]));
  }
  for (const not of part.nots) parts.push(negated(conditionOf(not, reading, required, fields)));
  for (const { keyword, branches, at } of part.alternatives) {
    if (keyword === 'oneOf') return refuse(at, keyword);
    parts.push(anyOf(branches.map((branch) => conditionOf(branch, reading, required, fields))));
  }
  if (part.values.length + part.limits.length + part.choosing.length + part.dependent.length + part.items.length > 0)
    return refuse(placed.at, 'if');
  return parts.reduce<Asked>(both, true);
}

function equal(key: string, { values }: Gathered): Call {
  const listed = (values[0]?.values ?? []).filter((value) => value !== null);
  return call('equals', { [key]: (listed.length === 1 ? listed[0] : listed) as Argument });
}

function isThere(key: string, required: ReadonlySet<string>): Asked {
  return required.has(key) ? true : call('present', key);
}

function negated(asked: Asked): Asked {
  if (typeof asked === 'boolean') return !asked;
  return asked.call === 'not' ? (asked.args[0] as Call) : call('not', asked);
}

function both(one: Asked, other: Asked): Asked {
  if (typeof one === 'boolean') return one ? other : false;
  if (typeof other === 'boolean') return other ? one : false;
  return call('allOf', one, other);
}

function anyOf(all: readonly Asked[]): Asked {
  if (all.includes(true)) return true;
  const left = all.filter((each): each is Call => typeof each !== 'boolean');
  if (left.length === 0) return false;
  return left.length === 1 ? (left[0] as Call) : call('anyOf', ...left);
}
