import { IntlMessageFormat } from 'intl-messageformat';

/** Texts remembered: more than an application says, and a limit for one that makes them up as it goes. */
const MOST_REMEMBERED = 5000;

/** Remembers a value under a key; forgets everything when there is too much. */
export function remember<V>(memory: Map<string, V>, key: string, value: V): V {
  if (memory.size >= MOST_REMEMBERED) memory.clear();
  memory.set(key, value);
  return value;
}

type Element = ReturnType<IntlMessageFormat['getAst']>[number];

const parsed = new Map<string, readonly Element[]>();

/** The parsed form of an ICU message; each text is parsed once. Throws for a text that is none. */
export function astOf(text: string): readonly Element[] {
  let ast = parsed.get(text);
  if (!ast) {
    ast = new IntlMessageFormat(text, 'en', undefined, { ignoreTag: true }).getAst();
    remember(parsed, text, ast);
  }
  return ast;
}

const found = new Map<string, ReadonlySet<string>>();

/** The names of the slots in an ICU message, in all its branches. */
export function slotsOf(text: string): ReadonlySet<string> {
  let slots = found.get(text);
  if (!slots) {
    const names = new Set<string>();
    collect(astOf(text), names, new Set());
    remember(found, text, names);
    slots = names;
  }
  return slots;
}

/** The slots that a message formats as a date or time, so that a day's text is turned into a date for them. */
export function dateSlotsOf(text: string): ReadonlySet<string> {
  const dates = new Set<string>();
  collect(astOf(text), new Set(), dates);
  return dates;
}

// The numbers are the element types of the ICU syntax tree: 0 literal, 1 argument, 2 number, 3 date, 4 time,
// 5 select, 6 plural, 7 the # of a plural.
function collect(elements: readonly Element[], names: Set<string>, dates: Set<string>): void {
  for (const element of elements) {
    if (element.type !== 0 && element.type !== 7) names.add(element.value);
    if (element.type === 3 || element.type === 4) dates.add(element.value);
    if (element.type === 5 || element.type === 6) {
      for (const option of Object.values(element.options)) collect(option.value, names, dates);
    }
  }
}
