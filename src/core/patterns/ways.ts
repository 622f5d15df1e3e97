import { type Copies, isWrittenOut } from './automaton.ts';
import { type CharacterSet, overlap, unionOf } from './character-set.ts';
import type { Node } from './syntax.ts';

// How far a pattern goes, and in how many ways.

/** The longest text that a node matches, and in how many ways at most it may be walked through. */
export function measure(node: Node): { readonly length: number; readonly ways: number } {
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
      if (node.max === 0) return { length: 0, ways: 1 };
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

/** Ways that may be open at a time: where the next character decides, only one goes on. */
export function openWays(node: Node, follow: CharacterSet, copies: Copies): number {
  switch (node.type) {
    case 'sequence': {
      let [ways, next] = [1, follow];
      for (const part of [...node.parts].reverse()) {
        ways *= openWays(part, next, copies);
        next = canBeEmpty(part) ? unionOf(firstOf(part), next) : firstOf(part);
      }
      return ways;
    }
    case 'either': {
      const ways = node.parts.map((part) => openWays(part, follow, copies));
      const firsts = node.parts.map((part) => (canBeEmpty(part) ? unionOf(firstOf(part), follow) : firstOf(part)));
      return waysTogether(firsts, ways);
    }
    case 'repeat': {
      const { of, min, max } = node;
      if (max === 0) return 1;
      const first = firstOf(of);
      const inside = openWays(of, max > 1 ? unionOf(first, follow) : follow, copies);
      const isOpen = min !== max && !isDecided([first, follow]);
      if (isWrittenOut(node, copies)) return (isOpen ? inside + 1 : inside) ** max;
      // In a loop that is proved, one way leads to each of its states.
      return isOpen || inside > 1 ? inside * (sizeOf(of) + 1) : 1;
    }
    default:
      return 1;
  }
}

/** The most ways that one next character leaves open. */
function waysTogether(firsts: readonly CharacterSet[], ways: readonly number[]): number {
  const points = [...new Set(firsts.flatMap((first) => first.map(([from]) => from)))];
  const isIn = (first: CharacterSet, point: number) => first.some(([from, to]) => from <= point && point <= to);
  return Math.max(...ways, ...points.map((point) => sum(ways.filter((_, index) => isIn(firsts[index] as CharacterSet, point)))));
}

function isDecided(firsts: readonly CharacterSet[]): boolean {
  return firsts.every((first, index) => firsts.slice(index + 1).every((other) => !overlap(first, other)));
}

function sizeOf(node: Node): number {
  if (node.type === 'characters') return 1;
  if (node.type === 'repeat') return sizeOf(node.of);
  return 'parts' in node ? sum(node.parts.map(sizeOf)) : 0;
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
