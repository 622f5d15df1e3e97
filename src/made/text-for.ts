import type { CharacterSet } from '../core/patterns/character-set.ts';
import { type Node, parsePattern } from '../core/patterns/syntax.ts';
import type { Chance } from './chance.ts';

/** Repetitions of what may be repeated without end. */
const MOST_REPEATED = 6;

/** Texts that an expression matches, shorter ones first; none where its form is not understood. */
export function textsFor(expression: RegExp, chance: Chance): string[] {
  let node: Node;
  try {
    node = parsePattern(expression);
  } catch {
    return [];
  }
  const texts = Array.from({ length: 12 }, (_, at) => textOf(node, chance, at === 0));
  return [...new Set(texts)].filter((text) => new RegExp(expression).test(text)).sort((a, b) => a.length - b.length);
}

function textOf(node: Node, chance: Chance, isShortest: boolean): string {
  switch (node.type) {
    case 'characters':
      return characterOf(node.set, chance);
    case 'sequence':
      return node.parts.map((part) => textOf(part, chance, isShortest)).join('');
    case 'either':
      return node.parts.length === 0 ? '' : textOf(isShortest ? (node.parts[0] as Node) : chance.pick(node.parts), chance, isShortest);
    case 'repeat': {
      const most = Math.min(node.max, node.min + MOST_REPEATED);
      const times = isShortest ? node.min : node.min + chance.below(most - node.min + 1);
      return Array.from({ length: times }, () => textOf(node.of, chance, isShortest)).join('');
    }
    default:
      return '';
  }
}

/** What people type rather than what the set could hold. */
const USUAL: CharacterSet = [
  [0x61, 0x7a],
  [0x41, 0x5a],
  [0x30, 0x39],
  [0x20, 0x7e],
];

function characterOf(set: CharacterSet, chance: Chance): string {
  for (const [first, last] of USUAL) {
    const within = set.flatMap(([from, to]) => (from <= last && to >= first ? [[Math.max(from, first), Math.min(to, last)] as const] : []));
    if (within.length > 0) {
      const [from, to] = chance.pick(within);
      return String.fromCodePoint(from + chance.below(to - from + 1));
    }
  }
  return set[0] ? String.fromCodePoint(set[0][0]) : '';
}
