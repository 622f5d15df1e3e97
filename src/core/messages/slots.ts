import { type Element, parseMessage } from './parse.ts';
import { dateOptions, numberOptions } from './styles.ts';

/** Texts remembered: more than an application says, and a limit for one that makes them up as it goes. */
const MOST_REMEMBERED = 5000;

/** Remembers a value under a key; forgets everything when there is too much. */
export function remember<V>(memory: Map<string, V>, key: string, value: V): V {
  if (memory.size >= MOST_REMEMBERED) memory.clear();
  memory.set(key, value);
  return value;
}

const parsed = new Map<string, readonly Element[]>();

/** The parsed form of an ICU message; each text is parsed once. Throws for a text that is none. */
export function astOf(text: string): readonly Element[] {
  let ast = parsed.get(text);
  if (!ast) {
    ast = parseMessage(text);
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
    collect(astOf(text), names);
    remember(found, text, names);
    slots = names;
  }
  return slots;
}

function collect(elements: readonly Element[], names: Set<string>): void {
  for (const element of elements) {
    if (element.type !== 0 && element.type !== 7) names.add(element.value);
    // A style that is not known is a fault of the message, and is found with its slots.
    if (element.type === 2) numberOptions(element.style);
    if (element.type === 3 || element.type === 4) dateOptions(element.type === 3 ? 'date' : 'time', element.style);
    if (element.type === 5 || element.type === 6) {
      for (const option of Object.values(element.options)) collect(option.value, names);
    }
  }
}
