import { type Argument, type Call, call, type FieldDraft, type FieldDrafts } from '../../drafts/draft.ts';
import { labelOf } from '../../published/fields.ts';
import type { Profile } from './profile.ts';

/** What is counted, for remarks: `rows`, or `entries` of a list. */
interface Counting {
  readonly count: number;
  readonly what: string;
}

/** A field as its values suggest it; a sentence where they suggest none. */
export type Guess = FieldDraft | string;

/** The fields that the members of a profile suggest, and those that are left out, with the reasons. */
export function guessedFields(
  { members }: Profile,
  counting: Counting,
  labels: ReadonlyMap<string, string> = new Map(),
): { readonly fields: FieldDrafts; readonly leftOut: readonly string[] } {
  const fields: { [key: string]: FieldDraft } = {};
  const leftOut: string[] = [];
  for (const [key, profile] of members) {
    const guess = guessedField(labels.get(key) ?? labelOf(key, {}), profile, counting);
    if (typeof guess === 'string') leftOut.push(`"${key}" is left out: ${guess}`);
    else if (/[.*[\]]/.test(key) || key === '__proto__' || key === '') leftOut.push(`"${key}" is left out: it cannot name a field`);
    else fields[key] = guess;
  }
  return { fields, leftOut };
}

export function guessedField(label: string, profile: Profile, counting: Counting): Guess {
  const { seen, there, objects, lists, texts, numbers, flags, blank } = profile;
  if (there === 0) return `nothing is there in any of ${told(counting)}`;
  const kinds = [objects, lists, texts, numbers, flags].filter((count) => count > 0);
  if (kinds.length > 1) return mixed(profile);
  const guess = objects > 0 ? groupOf(profile, counting) : lists > 0 ? listOf(label, profile, counting) : scalarOf(profile);
  if (typeof guess === 'string') return guess;
  const isNeeded = there === seen;
  const modifiers = isNeeded ? (blank > 0 && guess.kind === 'text' ? [call('blankAllowed')] : []) : [call('orAbsent')];
  const presence = isNeeded ? `there in all ${told(counting, seen)}` : `missing in ${number(seen - there)} of ${told(counting, seen)}`;
  return { kind: guess.kind, label, args: guess.args, modifiers, remarks: [`Guess: ${[presence, ...guess.rests].join('; ')}.`] };
}

interface Suggested {
  readonly kind: string;
  readonly args: readonly Argument[];
  readonly rests: readonly string[];
}

function groupOf(profile: Profile, counting: Counting): Suggested | string {
  const { fields, leftOut } = guessedFields(profile, { count: profile.objects, what: counting.what });
  if (Object.keys(fields).length === 0) return 'it has no member that is of one kind';
  return { kind: 'group', args: [fields], rests: leftOut };
}

function listOf(label: string, { entries, size }: Profile, counting: Counting): Suggested | string {
  if (!entries || entries.there === 0) return `it is empty in all ${told(counting)}`;
  const entry = guessedField(label, entries, { count: entries.seen, what: 'entries' });
  if (typeof entry === 'string') return entry;
  if (entries.there < entries.seen) return 'some of its entries are null';
  const item = { ...entry, remarks: [] };
  const limits = { ...(size.least > 0 && { min: 1 }), max: rounded(size.most) };
  return {
    kind: 'list',
    args: [item, call('length', limits)],
    rests: [`${range(size.least, size.most)} entries`, ...entry.remarks.map((remark) => remark.replace(/^Guess: |\.$/g, ''))],
  };
}

function scalarOf(profile: Profile): Suggested {
  const { number: numbers } = profile;
  const [kind] = profile.kinds;
  if (!kind?.guess) return textOf(profile);
  const { says, hasPlaces, rules } = kind.guess;
  const { least, most, places } = numbers;
  const rests = [says ?? valued(least, most), ...(hasPlaces ? [`${places} decimal ${places === 1 ? 'place' : 'places'} at most`] : [])];
  return { kind: kind.made, args: rules?.(numbers).map(([rule, argument]) => call(rule, argument)) ?? [], rests };
}

/** Few values that come again and again are options. */
const LEAST_TIMES = 4;
const MOST_OPTIONS = 12;
const LEAST_ROWS = 20;

function textOf(profile: Profile): Suggested {
  const { options, texts, size, rules, form, blank, isDistinct, example } = profile;
  const isFew =
    options.size > 1 &&
    options.size <= MOST_OPTIONS &&
    texts >= Math.max(LEAST_ROWS, options.size * LEAST_TIMES) &&
    size.most <= 40 &&
    blank === 0;
  if (isFew) {
    const named = [...options.keys()].map(String).sort();
    return { kind: 'choice', args: [named], rests: [`${options.size} distinct values`] };
  }
  const rests = [`${range(size.least, size.most)} ${size.most === 1 ? 'character' : 'characters'}`];
  const [rule] = rules;
  const steps: Call[] = [];
  const expression = texts >= LEAST_ROWS && form !== undefined && rules.size === 0 ? expressionOf(form) : undefined;
  if (rule) {
    steps.push(call(rule));
    rests.push(`each is ${RULE_WORDS[rule]}`);
  } else if (expression) {
    steps.push(call('pattern', expression, `text of the same form as ${String(example)}`));
    rests.push('all of one form');
  } else steps.push(call('length', { max: rounded(size.most * 1.5) }));
  if (isDistinct && texts >= LEAST_ROWS) rests.push('no two alike: perhaps it has to be unique');
  return { kind: 'text', args: steps, rests };
}

const RULE_WORDS = {
  email: 'an e-mail address',
  uuid: 'a UUID',
  webAddress: 'a web address',
  phone: 'a phone number with its country code',
};

/** Of `AA-0000` the expression `^[A-Z]{2}-\d{4}$`; of mere words none. */
function expressionOf(form: string): RegExp | undefined {
  if (!form.includes('0') || !/^[A-Za-z0\-_/.: ]+$/.test(form)) return undefined;
  const parts = [...form.matchAll(/A+|a+|0+|[^Aa0]/g)].map(([part]) => {
    const set = part.startsWith('A')
      ? '[A-Z]'
      : part.startsWith('a')
        ? '[a-z]'
        : part.startsWith('0')
          ? '\\d'
          : part.replace(/[/.]/, '\\$&');
    return /^[Aa0]/.test(part) && part.length > 1 ? `${set}{${part.length}}` : set;
  });
  return new RegExp(`^${parts.join('')}$`);
}

function mixed({ objects, lists, texts, numbers, flags }: Profile): string {
  const parts = [
    [texts, 'a text'],
    [numbers, 'a number'],
    [flags, 'true or false'],
    [lists, 'a list'],
    [objects, 'an object'],
  ] as const;
  return `it is ${parts.flatMap(([count, what]) => (count > 0 ? [`${what} ${number(count)} times`] : [])).join(' and ')}`;
}

/** A limit with room to spare: people take a round one for meant. */
function rounded(most: number): number {
  for (let power = 1; ; power *= 10) for (const step of [1, 2, 3, 5, 8]) if (step * power >= most) return step * power;
}

function range(least: number, most: number): string {
  return least === most ? number(least) : `${number(least)} to ${number(most)}`;
}

function valued(least: number, most: number): string {
  return least === most ? `always ${number(least)}` : range(least, most);
}

function told({ count, what }: Counting, of = count): string {
  return `${number(of)} ${what}`;
}

function number(count: number): string {
  return count.toLocaleString('en');
}
