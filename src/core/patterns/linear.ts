import { type CharacterSet, overlap, unionOf } from './character-set.ts';
import { type Node, parsePattern, Unshown } from './syntax.ts';

// Shows that a backtracking engine needs linear time for a pattern, whatever the text. Two conditions are enough:
//
// 1. At every choice (which alternative, once more or on) the next character decides, because the characters that each
//    way may begin with do not overlap. Then the engine never takes up a way that another has walked before.
// 2. The pattern is tried at one place only, because it begins with ^, or no try is longer than a fixed length.
//
// A pattern of bounded length may be ambiguous as long as its ways are few: their number bounds the work.

/** Steps of one try: of a pattern tried once, and of one tried at every place of the text. */
const MOST_STEPS = 100_000;
const MOST_STEPS_A_PLACE = 200;

/** Why linear time cannot be shown, in words; `undefined` when it is shown. */
export function whyNotLinear(expression: RegExp): string | undefined {
  try {
    const node = parsePattern(expression);
    const { length, ways } = measure(node);
    const most = isAnchored(node) ? MOST_STEPS : MOST_STEPS_A_PLACE;
    if (length * ways <= most) return undefined;
    if (!isAnchored(node) && length > most) return 'it does not begin with ^, and so is tried at every place of the text';
    if (hasInnerStart(node)) return 'a ^ stands inside it';
    check(node, []);
    return undefined;
  } catch (cause) {
    if (cause instanceof Unshown) return cause.message;
    throw cause;
  }
}

/** The longest text that a node matches, and in how many ways at most it may be walked through. */
function measure(node: Node): { readonly length: number; readonly ways: number } {
  switch (node.type) {
    case 'characters':
      return { length: 1, ways: 1 };
    case 'sequence': {
      const parts = node.parts.map(measure);
      return { length: sum(parts.map(({ length }) => length)), ways: parts.reduce((all, { ways }) => all * ways, 1) };
    }
    case 'either': {
      const parts = node.parts.map(measure);
      return { length: Math.max(...parts.map(({ length }) => length)), ways: sum(parts.map(({ ways }) => ways)) };
    }
    case 'repeat': {
      const { length, ways } = measure(node.of);
      if (node.max === Number.POSITIVE_INFINITY) return { length: Number.POSITIVE_INFINITY, ways: Number.POSITIVE_INFINITY };
      return { length: length * node.max, ways: repeatedWays(ways, node.min, node.max) };
    }
    default:
      return { length: 0, ways: 1 };
  }
}

function repeatedWays(ways: number, min: number, max: number): number {
  if (ways === 1) return max - min + 1;
  // The sum of a geometric row; beyond the limit it does not matter how far.
  return Math.min(Number.MAX_SAFE_INTEGER, (max - min + 1) * ways ** max);
}

function sum(numbers: readonly number[]): number {
  return numbers.reduce((all, number) => all + number, 0);
}

function isAnchored(node: Node): boolean {
  if (node.type === 'start') return true;
  if (node.type === 'sequence') return node.parts.length > 0 && isAnchored(node.parts[0] as Node);
  return node.type === 'either' && node.parts.every(isAnchored);
}

function hasInnerStart(node: Node, isFirst = true): boolean {
  switch (node.type) {
    case 'start':
      return !isFirst;
    case 'sequence':
      return node.parts.some((part, index) => hasInnerStart(part, isFirst && index === 0));
    case 'either':
      return node.parts.some((part) => hasInnerStart(part, isFirst));
    case 'repeat':
      return hasInnerStart(node.of, false);
    default:
      return false;
  }
}

/** Walks a node with the characters that may follow it; throws where the next character does not decide. Gives what may come first. */
function check(node: Node, follow: CharacterSet): CharacterSet {
  switch (node.type) {
    case 'characters':
      return node.set;
    case 'start':
    case 'edge':
      return follow;
    case 'end':
      // Where the text ends, no other way has a character to begin with.
      return [];
    case 'sequence':
      return node.parts.reduceRight((next, part) => check(part, next), follow);
    case 'either': {
      const firsts = node.parts.map((part) => check(part, follow));
      for (const [index, first] of firsts.entries()) {
        if (firsts.slice(index + 1).some((other) => overlap(other, first)))
          throw new Unshown('two alternatives may begin with the same character');
      }
      return unionOf(...firsts);
    }
    case 'repeat':
      return checkRepeat(node, follow);
  }
}

function checkRepeat({ of, min, max }: Extract<Node, { type: 'repeat' }>, follow: CharacterSet): CharacterSet {
  if (canBeEmpty(of)) throw new Unshown('what is repeated may be empty');
  const first = firstOf(of);
  check(of, max > 1 ? unionOf(first, follow) : follow);
  if (max === min) return first;
  if (overlap(first, follow)) throw new Unshown('after a repetition, the same character may go on with it or with what follows');
  return min === 0 ? unionOf(first, follow) : first;
}

/** The characters that a node may begin with. */
function firstOf(node: Node): CharacterSet {
  switch (node.type) {
    case 'characters':
      return node.set;
    case 'sequence': {
      const sets: CharacterSet[] = [];
      for (const part of node.parts) {
        sets.push(firstOf(part));
        if (!canBeEmpty(part)) break;
      }
      return unionOf(...sets);
    }
    case 'either':
      return unionOf(...node.parts.map(firstOf));
    case 'repeat':
      return node.max === 0 ? [] : firstOf(node.of);
    default:
      return [];
  }
}

function canBeEmpty(node: Node): boolean {
  switch (node.type) {
    case 'characters':
      return false;
    case 'sequence':
      return node.parts.every(canBeEmpty);
    case 'either':
      return node.parts.some(canBeEmpty);
    case 'repeat':
      return node.min === 0 || canBeEmpty(node.of);
    default:
      return true;
  }
}
