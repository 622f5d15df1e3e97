import { isFault } from '../core/basics/fault.ts';
import { type BuiltIntake, builtIntake } from '../drafts/built.ts';
import { type Call, call, type FieldDraft, type IntakeDraft } from '../drafts/draft.ts';
import { taggedIn } from './alternatives.ts';
import { labelOf, membersOf, typeOf } from './fields.ts';
import type { Gathered } from './gathered.ts';
import { type Placed, type Places, type Refused, Unsupported } from './places.ts';
import { type Members, Reading, type ReadingOptions } from './reading.ts';

/** A schema read as an intake, or what stands in the way. */
export interface ReadIntake {
  /** `undefined` where something is refused. */
  readonly draft: IntakeDraft | undefined;
  readonly intake: BuiltIntake | undefined;
  /** What is not supported, by name and place. */
  readonly refused: readonly Refused[];
  /** What is read otherwise than it is written. */
  readonly notes: readonly Refused[];
}

/** Reads the schema of an object as an intake. */
export function readIntake(name: string, placed: Placed, places: Places, options: ReadingOptions): ReadIntake {
  const reading = new Reading(places, options);
  const draft = reading.attempted(() => draftOf(name, placed, reading));
  if (!draft || reading.refused.length > 0) return { draft: undefined, intake: undefined, refused: reading.refused, notes: reading.notes };
  try {
    return { draft, intake: builtIntake(draft), refused: [], notes: reading.notes };
  } catch (cause) {
    if (!isFault(cause)) throw cause;
    const why = (cause as Error).message;
    return { draft: undefined, intake: undefined, refused: [{ at: placed.at, keyword: 'schema', why }], notes: reading.notes };
  }
}

function draftOf(name: string, placed: Placed, reading: Reading): IntakeDraft {
  const gathered = reading.gatherer.gathered(placed);
  const type = typeOf(gathered, reading);
  if (type !== 'object')
    throw new Unsupported(
      placed.at,
      'type',
      `an intake is of an object, and this is ${type === 'integer' ? 'a number' : `of type ${type}`}`,
    );
  if (gathered.properties.size === 0 && gathered.others.length > 0)
    throw new Unsupported(placed.at, 'additionalProperties', 'an intake is of an object whose properties are told');
  const { fields, rules } = taggedMembers(gathered, reading) ?? membersOf(gathered, reading, []);
  const { description } = gathered.remarks;
  return {
    name,
    fields,
    rules,
    refusesStrangers: gathered.closedAt !== undefined,
    remarks: description === undefined ? [] : [description],
  };
}

/** Alternatives at the top: the tag is a choice, and the fields of each are there with it. */
function taggedMembers(gathered: Gathered, reading: Reading): Members | undefined {
  const told = taggedIn(gathered, reading);
  if (!told) return undefined;
  const { tag, alternatives, common, branches } = told;
  const names = branches.flatMap((each) => each.names);
  const fields: { [key: string]: FieldDraft } = {};
  const needed = new Map<string, string[]>();
  const there = new Map<string, string[]>();
  const rules: Call[] = [];
  const label = labelOf(tag, reading.gatherer.gathered(...(gathered.properties.get(tag) ?? [{ schema: true, at: gathered.at }])).remarks);
  for (const { names: own, branch } of branches) {
    const whole = reading.gatherer.gathered(...common, branch);
    whole.alternatives.splice(0, whole.alternatives.length, ...whole.alternatives.filter(({ at }) => at !== alternatives.at));
    whole.properties.delete(tag);
    const required = new Set(whole.required);
    whole.required.clear();
    const members = membersOf(whole, reading, []);
    if (members.rules.length > 0)
      throw new Unsupported(branch.at, alternatives.keyword, 'rules between the fields of one alternative need an object of their own');
    gathered.closedAt ??= whole.closedAt;
    for (const [key, field] of Object.entries(members.fields)) {
      if (Object.hasOwn(fields, key) && JSON.stringify(fields[key]) !== JSON.stringify(field))
        throw new Unsupported(branch.at, 'properties', `"${key}" is something else in another alternative`);
      fields[key] = field;
      there.set(key, [...(there.get(key) ?? []), ...own]);
      if (required.has(key)) needed.set(key, [...(needed.get(key) ?? []), ...own]);
    }
  }
  for (const [key, when] of there) {
    const needs = needed.get(key) ?? [];
    if (needs.length > 0)
      rules.push(needs.length === names.length ? call('needed', key) : call('needed', key, { when: call('equals', { [tag]: needs }) }));
    if (when.length === names.length) continue;
    rules.push(call('absent', key, { when: call('not', call('equals', { [tag]: when })) }));
    reading.note(alternatives.at, alternatives.keyword, 'the fields of another alternative are refused');
  }
  return {
    fields: { [tag]: { kind: 'choice', label, args: [names], modifiers: [], remarks: [] }, ...fields },
    rules,
  };
}
