import type { Calls } from '../../workbench/wire.ts';
import { Misuse } from '../basics/misuse.ts';

// What may be asked over HTTP, by anybody with the key: what has another shape is told so, by its place.

/** A text, a number, a list of texts, one of some words, an object whose members have shapes (optional ones with a `?`), or a list of such. */
type Shape =
  | 'text'
  | 'number'
  | 'texts'
  | 'text or null'
  | 'object or null'
  | readonly string[]
  | ObjectShape
  | { readonly listOf: ObjectShape };
interface ObjectShape {
  readonly members: { readonly [name: string]: Shape };
}

const ASKED = {
  intake: 'text',
  submission: 'text',
  'stored?': 'text',
  'itself?': 'text',
  settings: {
    members: {
      locale: 'text',
      as: ['json', 'form'],
      report: ['everything', 'firstOfEach', 'firstOfAll'],
      records: 'text',
      'occasion?': 'text',
      'now?': 'text',
      'given?': 'text',
    },
  },
} as const;

/** The calls that the page may make by name, and what each takes. */
const CALLS: { readonly [name in keyof Calls]?: ObjectShape } = {
  describe: { members: { intake: 'text', locale: 'text', 'now?': 'text' } },
  judge: { members: ASKED },
  answers: { members: { ...ASKED, 'address?': 'text' } },
  turn: { members: { ...ASKED, pointer: 'text' } },
  pattern: { members: { source: 'text', flags: 'text', texts: 'texts' } },
  sample: { members: { ...ASKED, use: 'text', 'entry?': 'text' } },
};

export const CHANGES: ObjectShape = {
  members: { changes: { listOf: { members: { name: 'text', read: 'text or null', put: 'object or null', 'without?': 'texts' } } } },
};

/** What imports are asked. */
export const IMPORTS = {
  open: { members: { path: 'text' } },
  row: { members: { path: 'text', row: 'number', intake: 'text' } },
  alike: { members: { path: 'text', use: 'text', intake: 'text', settings: ASKED.settings, 'version?': 'text' } },
} as const satisfies { readonly [name: string]: ObjectShape };

export const PASTED: ObjectShape = { members: { text: 'text' } };

/** What a call takes; none where there is no such call. */
export function shapeOf(name: string): ObjectShape | undefined {
  return Object.hasOwn(CALLS, name) ? CALLS[name as keyof Calls] : undefined;
}

/** @throws Misuse for a value of another shape */
export function checkShape(value: unknown, shape: Shape): void {
  const problem = problemIn(value, shape, 'What is sent');
  if (problem !== undefined) throw new Misuse(problem);
}

function problemIn(value: unknown, shape: Shape, at: string): string | undefined {
  if (typeof shape === 'string') return TEXTS[shape](value) ? undefined : `${at} has to be ${WORDS[shape]}.`;
  if (isWords(shape))
    return shape.includes(value as string) ? undefined : `${at} has to be ${shape.map((word) => `"${word}"`).join(' or ')}.`;
  if ('listOf' in shape) {
    if (!Array.isArray(value)) return `${at} has to be a list.`;
    return first(value.entries(), ([index, entry]) => problemIn(entry, shape.listOf, `${at}, entry ${index + 1}`));
  }
  if (!isObject(value)) return `${at} has to be a JSON object.`;
  return first(Object.entries(shape.members), ([key, inner]) => {
    const name = key.replace('?', '');
    const member = Object.hasOwn(value, name) ? value[name] : undefined;
    return member === undefined && key.endsWith('?') ? undefined : problemIn(member, inner, `"${name}"`);
  });
}

const TEXTS = {
  text: isText,
  number: (value: unknown) => typeof value === 'number',
  texts: (value: unknown) => Array.isArray(value) && value.every(isText),
  'text or null': (value: unknown) => value === null || isText(value),
  'object or null': (value: unknown) => value === null || isObject(value),
};
const WORDS = {
  text: 'a text',
  number: 'a number',
  texts: 'a list of texts',
  'text or null': 'a text or null',
  'object or null': 'a JSON object or null',
};

function isWords(shape: Shape): shape is readonly string[] {
  return Array.isArray(shape);
}

function isText(value: unknown): value is string {
  return typeof value === 'string';
}

function isObject(value: unknown): value is { readonly [name: string]: unknown } {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function first<T>(values: Iterable<T>, problem: (value: T) => string | undefined): string | undefined {
  for (const each of values) {
    const told = problem(each);
    if (told !== undefined) return told;
  }
  return undefined;
}
