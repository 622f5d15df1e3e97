import { day } from '../core/kinds/day.ts';
import { specOf } from '../core/kinds/field.ts';
import { moment } from '../core/kinds/times.ts';
import { type Argument, type Call, call, type FieldDraft } from '../drafts/draft.ts';
import type { Gathered, Limit } from './gathered.ts';
import { ownOf, Unsupported } from './places.ts';
import type { Reading } from './reading.ts';

/** A kind with its steps, before its label and modifiers are known. */
export type Kinded = Pick<FieldDraft, 'kind' | 'args' | 'modifiers'>;

/** A type that has values and no members. */
export function scalarOf(gathered: Gathered, type: string, isNeeded: boolean, reading: Reading): Kinded {
  const { values } = gathered;
  if (values.length > 0) return choiceOf(gathered, type);
  switch (type) {
    case 'string':
      return textOf(gathered, isNeeded, reading);
    case 'exact':
      return { kind: 'exact', args: [], modifiers: [] };
    case 'boolean':
      refuseLimits(gathered, []);
      return { kind: 'flag', args: [], modifiers: [] };
    default:
      return numberOf(gathered, type, reading);
  }
}

/** Values that are listed: a choice, and of yes and no a flag. */
function choiceOf(gathered: Gathered, type: string): Kinded {
  const [first, ...others] = gathered.values as [Gathered['values'][number], ...Gathered['values']];
  const { at } = first;
  const left = first.values.filter(
    (value) =>
      value !== null && others.every(({ values }) => values.includes(value)) && isOfType(value, type) && fits(value, gathered.limits),
  );
  if (left.length === 0) throw new Unsupported(at, 'enum', 'no value is left, so that nothing fits it');
  if (type === 'boolean') {
    const args = left.length === 2 ? [] : [call(left[0] === true ? 'isTrue' : 'isFalse')];
    return { kind: 'flag', args, modifiers: [] };
  }
  return { kind: 'choice', args: [[...new Set(left)] as Argument], modifiers: [] };
}

function isOfType(value: unknown, type: string): boolean {
  if (type === 'integer') return Number.isInteger(value);
  return typeof value === type;
}

/** Whether a listed value keeps the limits beside it. */
function fits(value: unknown, limits: readonly Limit[]): boolean {
  return limits.every(({ keyword, value: limit, at }) => {
    const size = typeof value === 'string' ? [...value].length : 0;
    switch (keyword) {
      case 'minLength':
        return typeof value !== 'string' || size >= Number(limit);
      case 'maxLength':
        return typeof value !== 'string' || size <= Number(limit);
      case 'pattern':
        return typeof value !== 'string' || expressionOf(String(limit), at).test(value);
      case 'minimum':
        return typeof value !== 'number' || value >= Number(limit);
      case 'maximum':
        return typeof value !== 'number' || value <= Number(limit);
      case 'exclusiveMinimum':
        return typeof value !== 'number' || value > Number(limit);
      case 'exclusiveMaximum':
        return typeof value !== 'number' || value < Number(limit);
      default:
        return true;
    }
  });
}

const BLANKS = ['', ' ', '\t', '\u00a0', '   '];

function textOf(gathered: Gathered, isNeeded: boolean, reading: Reading): Kinded {
  const { formats, limits } = gathered;
  const isFile =
    formats.some(({ value }) => value === 'binary') ||
    limits.some(({ keyword, value }) => keyword === 'contentEncoding' && value === 'binary');
  if (isFile && reading.files) return { kind: 'upload', args: [], modifiers: [] };
  const own = formats.map(({ value }) => ownOf(OWN_KINDS, String(value))).find((kind) => kind !== undefined);
  if (own) {
    // What every day has anyway is no limit.
    refuseLimits(gathered, [], own);
    return { kind: own.kind, args: [], modifiers: [] };
  }
  const steps = textRules(gathered, reading, isNeeded);
  const refusesBlank = limits.some(
    ({ keyword, value }) => keyword === 'pattern' && BLANKS.every((blank) => !new RegExp(String(value), 'u').test(blank)),
  );
  const isOfFormat = steps.some(({ call: name }) => !['length', 'pattern', 'base64'].includes(name));
  const mayBeBlank = reading.blanks && !refusesBlank && !isOfFormat;
  const modifiers = [
    ...(formats.some(({ value }) => value === 'password') ? [call('secret')] : []),
    ...(mayBeBlank ? [call('blankAllowed')] : []),
  ];
  return { kind: 'text', args: steps, modifiers };
}

interface OwnKind {
  readonly kind: string;
  /** Characters that it has at least. */
  readonly size: number;
  /** What Jestril's own descriptions say of it besides. */
  readonly pattern: unknown;
}

const OWN_KINDS: { readonly [format: string]: OwnKind } = {
  date: { kind: 'day', size: 10, pattern: specOf(day('Day'), 'day').kind.schema?.schema.pattern },
  'date-time': { kind: 'moment', size: 20, pattern: specOf(moment('Moment'), 'moment').kind.schema?.schema.pattern },
};

/** The rules that a text's limits and formats are. */
export function textRules(gathered: Gathered, reading: Reading, isNeeded = false): Call[] {
  const { limits, formats } = gathered;
  refuseLimits(gathered, ['minLength', 'maxLength', 'pattern', 'contentEncoding']);
  const rules: Call[] = [];
  const size = sizeOf(limits, 'minLength', 'maxLength');
  if (size) rules.push(reading.call(size.at, size.keyword, 'length', size.limits));
  for (const { value, at } of limits.filter(({ keyword }) => keyword === 'pattern')) {
    // A needed text is not blank anyway.
    if (value === '\\S' && isNeeded) continue;
    rules.push(patterned(String(value), at, reading));
  }
  for (const { value, at } of limits.filter(({ keyword }) => keyword === 'contentEncoding')) {
    if (value === 'base64' || value === 'base64url') rules.push(call('base64', ...(value === 'base64url' ? [{ urlSafe: true }] : [])));
    else reading.note(at, 'contentEncoding', `${JSON.stringify(value)} is not checked`);
  }
  for (const { value, at } of formats) {
    const rule = ownOf(FORMATS, String(value));
    if (rule) rules.push(...rule);
    else if (!SILENT_FORMATS.has(String(value))) reading.note(at, 'format', `${JSON.stringify(value)} is not checked`);
  }
  return rules;
}

/** Said by other means. */
const SILENT_FORMATS = new Set(['password']);

const FORMATS: { readonly [format: string]: readonly Call[] | undefined } = {
  email: [call('email')],
  uuid: [call('uuid')],
  hostname: [call('hostName')],
  ipv4: [call('ipAddress', { version: 4 })],
  ipv6: [call('ipAddress', { version: 6 })],
  byte: [call('base64')],
  base64url: [call('base64', { urlSafe: true })],
  time: [
    call(
      'pattern',
      /^(?:[01]\d|2[0-3]):[0-5]\d:(?:[0-5]\d|60)(?:\.\d+)?(?:[Zz]|[+-](?:[01]\d|2[0-3]):[0-5]\d)$/,
      'a time of day with its offset, such as 09:30:00+02:00',
    ),
  ],
};

function expressionOf(source: string, at: string): RegExp {
  try {
    return new RegExp(source, 'u');
  } catch {
    throw new Unsupported(at, 'pattern', `${source} is no regular expression with the flag u`);
  }
}

function patterned(source: string, at: string, reading: Reading): Call {
  const expression = expressionOf(source, at);
  // Without a flag where it means the same: so it is written by hand.
  const isPlain = !/\.|\[\^|\\[DSWpPu]|[^\0-\x7f]/.test(source.replaceAll(/\\\./g, ''));
  const shown = isPlain ? new RegExp(source) : expression;
  return reading.call(at, 'pattern', 'pattern', shown, `text of the form ${source}`);
}

function numberOf(gathered: Gathered, type: string, reading: Reading): Kinded {
  return { kind: type === 'integer' ? 'whole' : 'decimal', args: numberRules(gathered, type, reading), modifiers: [] };
}

/** The rules that a number's limits and formats are. */
export function numberRules(gathered: Gathered, type: string, reading: Reading): Call[] {
  const { limits, formats } = gathered;
  refuseLimits(gathered, ['minimum', 'maximum', 'exclusiveMinimum', 'exclusiveMaximum', 'multipleOf']);
  const isWhole = type === 'integer';
  const of = (keyword: string) => limits.filter((each) => each.keyword === keyword).map(({ value }) => Number(value));
  const is32 = formats.some(({ value }) => value === 'int32');
  for (const { value, at } of formats)
    if (!['int32', 'int64', 'float', 'double'].includes(String(value)))
      reading.note(at, 'format', `${JSON.stringify(value)} is not checked`);
  const least = Math.max(...of('minimum'), ...(is32 ? [-(2 ** 31)] : []));
  const most = Math.min(...of('maximum'), ...(is32 ? [2 ** 31 - 1] : []));
  const over = Math.max(...of('exclusiveMinimum'));
  const under = Math.min(...of('exclusiveMaximum'));
  const at = limits[0]?.at ?? gathered.at;
  const rules: Call[] = [];
  // A whole number that JavaScript keeps is between its own limits already.
  const low = isWhole ? Math.ceil(least) : least;
  const high = isWhole ? Math.floor(most) : most;
  const hasLow = Number.isFinite(low) && !(isWhole && low < -Number.MAX_SAFE_INTEGER);
  const hasHigh = Number.isFinite(high) && !(isWhole && high > Number.MAX_SAFE_INTEGER);
  if (hasLow && hasHigh) rules.push(reading.call(at, 'minimum', 'between', low, high));
  else if (hasLow) rules.push(reading.call(at, 'minimum', 'atLeast', low));
  else if (hasHigh) rules.push(reading.call(at, 'maximum', 'atMost', high));
  if (Number.isFinite(over)) rules.push(reading.call(at, 'exclusiveMinimum', 'above', isWhole ? Math.floor(over) : over));
  if (Number.isFinite(under)) rules.push(reading.call(at, 'exclusiveMaximum', 'below', isWhole ? Math.ceil(under) : under));
  for (const factor of of('multipleOf')) if (!(isWhole && factor === 1)) rules.push(reading.call(at, 'multipleOf', 'multipleOf', factor));
  return rules;
}

export interface Size {
  readonly limits: { readonly [limit: string]: number };
  readonly at: string;
  readonly keyword: string;
}

/** The narrowest of two keywords for sizes; `undefined` where they limit nothing. */
export function sizeOf(limits: readonly Limit[], least: string, most: string): Size | undefined {
  const of = (keyword: string) => limits.filter((each) => each.keyword === keyword);
  const min = Math.max(0, ...of(least).map(({ value }) => Number(value)));
  const max = Math.min(...of(most).map(({ value }) => Number(value)));
  const [first] = [...of(least), ...of(most)];
  if (!first || (min === 0 && !Number.isFinite(max))) return undefined;
  return {
    limits: { ...(min > 0 && { min }), ...(Number.isFinite(max) && { max }) },
    at: first.at,
    keyword: first.keyword,
  };
}

/** Which types a limit is about; of others it says nothing. */
const ABOUT: { readonly [keyword: string]: string } = {
  minLength: 'string',
  maxLength: 'string',
  pattern: 'string',
  contentEncoding: 'string',
  minimum: 'number',
  maximum: 'number',
  exclusiveMinimum: 'number',
  exclusiveMaximum: 'number',
  multipleOf: 'number',
  minItems: 'array',
  maxItems: 'array',
  uniqueItems: 'array',
  minProperties: 'object',
  maxProperties: 'object',
};

/** No moment is written with more characters. */
const LONGEST = 35;

/** Limits that what has been made of it does not keep. */
export function refuseLimits({ limits, types }: Gathered, known: readonly string[], own?: OwnKind): void {
  for (const { keyword, value, at } of limits) {
    const about = ABOUT[keyword] as string;
    const isAbout = !types || types.has(about) || (about === 'number' && types.has('integer'));
    const isImplied =
      own !== undefined &&
      ((keyword === 'minLength' && Number(value) <= own.size) ||
        (keyword === 'maxLength' && Number(value) >= LONGEST) ||
        (keyword === 'pattern' && value === own.pattern));
    if (isAbout && !isImplied && !known.includes(keyword)) throw new Unsupported(at, keyword, 'no rule of this kind says it');
  }
}
