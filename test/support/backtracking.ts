import type { CharacterSet } from '../../src/core/patterns/character-set.ts';
import { type Node, parsePattern } from '../../src/core/patterns/syntax.ts';

// A plain backtracking matcher that counts its steps, as the run time's engine would take them (ECMA-262, 22.2.2).

/** Texts to be repeated. */
export const UNITS = ['a', 'b', 'c', 'ab', 'ba', 'aab', 'abc', 'bb', 'acb'];

/** More steps than any linear expression of the tests takes on their texts. */
const MOST = 400_000;

/** What is looked at behind is short. */
const LONGEST = 64;

class TooMany extends Error {}

/** Steps until the expression has matched or failed at every place where it is tried; at most `MOST`. */
export function stepsOf(expression: RegExp, text: string): number {
  const node = parsePattern(expression);
  const counter = { steps: 0 };
  try {
    for (let place = 0; place <= text.length; place++) if (match(node, text, place, counter, () => true)) break;
  } catch (cause) {
    if (!(cause instanceof TooMany)) throw cause;
  }
  return counter.steps;
}

type Next = (place: number) => boolean;

function match(node: Node, text: string, place: number, counter: { steps: number }, next: Next): boolean {
  if (++counter.steps > MOST) throw new TooMany();
  switch (node.type) {
    case 'characters':
      return place < text.length && isIn(node.set, text.charCodeAt(place)) && next(place + 1);
    case 'sequence': {
      const from = (index: number, at: number): boolean => {
        const part = node.parts[index];
        return part ? match(part, text, at, counter, (to) => from(index + 1, to)) : next(at);
      };
      return from(0, place);
    }
    case 'either':
      return node.parts.some((part) => match(part, text, place, counter, next));
    case 'repeat': {
      const again = (done: number, at: number): boolean => {
        if (++counter.steps > MOST) throw new TooMany();
        const isMore = done < node.max && match(node.of, text, at, counter, (to) => (to > at || done < node.min) && again(done + 1, to));
        return isMore || (done >= node.min && next(at));
      };
      return again(0, place);
    }
    case 'start':
      return place === 0 && next(place);
    case 'end':
      return place === text.length && next(place);
    case 'edge':
      return isWord(text, place - 1) !== isWord(text, place) && next(place);
    case 'ahead':
      return match(node.of, text, place, counter, () => true) !== node.isNot && next(place);
    case 'behind': {
      const isBefore = (from: number): boolean =>
        from >= 0 && (match(node.of, text, from, counter, (to) => to === place) || (place - from < LONGEST && isBefore(from - 1)));
      return isBefore(place) !== node.isNot && next(place);
    }
  }
}

function isIn(set: CharacterSet, point: number): boolean {
  return set.some(([first, last]) => point >= first && point <= last);
}

function isWord(text: string, place: number): boolean {
  return /\w/.test(text[place] ?? '');
}
