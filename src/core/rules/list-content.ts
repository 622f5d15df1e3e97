import { canonical } from '../basics/canonical.ts';
import { fault, nearest } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { AnyField } from '../declared/field.ts';
import { readConstant } from '../declared/kind.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { specOf } from '../kinds/field.ts';
import { valueRule } from './value-rule.ts';

type Entry = string | number | boolean;

function keyOf(entry: unknown, by: string | undefined): unknown {
  const key = by === undefined ? entry : (entry as { readonly [name: string]: unknown } | undefined)?.[by];
  // Groups and values of JSON are the same when what is in them is.
  return typeof key === 'object' && key !== null ? canonical(key) : key;
}

interface ContentTakes {
  readonly by: string | undefined;
}

/** The first entry that is like an earlier one, and that one. */
function repetitionIn(value: readonly unknown[], { by }: ContentTakes): readonly [entry: number, sameAs: number] | undefined {
  const seen = new Map<unknown, number>();
  for (const [index, entry] of value.entries()) {
    const key = keyOf(entry, by);
    // Entries without the key are not compared; an entry that is null by itself is a value like others.
    if (key === undefined || (key === null && by !== undefined)) continue;
    const earlier = seen.get(key);
    if (earlier !== undefined) return [index, earlier];
    seen.set(key, index);
  }
  return undefined;
}

const different = valueRule('distinct', ['list'], {
  check: (value: readonly unknown[], takes: ContentTakes) => repetitionIn(value, takes) === undefined,
  schema: ({ by }) =>
    by === undefined ? { schema: { uniqueItems: true }, leavesOut: 'entries that are the same once they are cleaned' } : undefined,
  // Entries are counted from 1, as people do.
  facts(takes, _at, value) {
    const [entry = 0, sameAs = 0] = repetitionIn(value, takes) ?? [];
    return { entry: entry + 1, sameAs: sameAs + 1 };
  },
  factNames: ['entry', 'sameAs'],
  entryOf: (value, takes) => repetitionIn(value, takes)?.[0],
  forField(takes, { item }, say) {
    const { kind, fields = {} } = specOf(item as AnyField, 'item');
    if (takes.by !== undefined && !Object.hasOwn(fields, takes.by))
      say(
        `it compares entries by "${takes.by}", and ${kind.name === 'group' ? `there is no such field in them; ${nearest(takes.by, Object.keys(fields))}` : `they are no groups but ${kind.name}.`}`,
      );
    return takes;
  },
  message: { en: '{field} must not have the same entry twice: entry {entry} is the same as entry {sameAs}.' },
});

/**
 * No two entries alike; `by` compares one of their fields only. Blames the entry that repeats an earlier one.
 *
 * @law No two entries alike.
 * @option by | the field of the entries that is compared | the whole entry
 * @example list('Crew', group('Member', { name: text('Name') }), distinct({ by: 'name' }))
 * @holds [{ name: 'Ida' }, { name: 'Bo' }]
 * @fails [{ name: 'Ida' }, { name: 'Ida' }]
 */
export const distinct = (options: { readonly by?: string } = {}, use?: ValueUse): ValueRule<'list'> =>
  different({ by: optionsOf('distinct', options, ['by']).by }, use);

const including = valueRule('must-contain', ['list'], {
  check: (value: readonly unknown[], { entry }: { entry: Entry }) => value.includes(entry),
  examples: ({ entry }) => [[entry]],
  schema: ({ entry }) => ({ schema: { contains: { const: entry } } }),
  facts: (takes) => takes,
  factNames: ['entry'],
  forField({ entry }, { item }, say) {
    const { kind } = specOf(item as AnyField, 'item');
    return { entry: readConstant(kind, entry, 'it looks for', say) as Entry };
  },
  refuses({ entry }) {
    if (!['string', 'number', 'boolean'].includes(typeof entry)) fault('mustContain needs a text, number or flag that an entry has to be.');
  },
  message: { en: '{field} must contain {entry}.' },
});

/**
 * Some entry is this text, number or flag.
 *
 * @example list('Languages', text('Language'), mustContain('en'))
 * @holds ['nb', 'en']
 * @fails ['nb']
 */
export const mustContain = (entry: Entry, use?: ValueUse): ValueRule<'list'> => including({ entry }, use);
