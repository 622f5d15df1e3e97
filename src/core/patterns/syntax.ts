import { type AST, RegExpParser } from '@eslint-community/regexpp';
import { type CharacterSet, complementOf, inAnyCase, setOf, unionOf } from './character-set.ts';

// The tree of a regular expression (ECMA-262, 22.2.1), as far as linear time can be shown for it. Sets of characters may be
// larger than what the engine matches, never smaller.

export type Node =
  | { readonly type: 'characters'; readonly set: CharacterSet }
  | { readonly type: 'sequence'; readonly parts: readonly Node[] }
  | { readonly type: 'either'; readonly parts: readonly Node[] }
  | { readonly type: 'repeat'; readonly of: Node; readonly min: number; readonly max: number }
  | { readonly type: 'start' | 'end' | 'edge' }
  /** Looks at what comes next, or at what came before, and takes none of it. */
  | { readonly type: 'ahead' | 'behind'; readonly of: Node; readonly isNot: boolean };

/** What linear time cannot be shown for, in words. */
export class Unshown extends Error {}

const DIGITS = setOf([0x30, 0x39]);
const WORDS = setOf([0x30, 0x39], [0x41, 0x5a], [0x5f, 0x5f], [0x61, 0x7a]);
const SPACES = setOf(
  [9, 13],
  [0x20, 0x20],
  [0xa0, 0xa0],
  [0x1680, 0x1680],
  [0x2000, 0x200a],
  [0x2028, 0x2029],
  [0x202f, 0x202f],
  [0x205f, 0x205f],
  [0x3000, 0x3000],
  [0xfeff, 0xfeff],
);
const LINE_ENDS = setOf([10, 10], [13, 13], [0x2028, 0x2029]);
const ALL = setOf([0, 0x10ffff]);
const BEYOND_ASCII = setOf([0x80, 0x10ffff]);

/** Made when the first pattern is declared. */
let parser: RegExpParser | undefined;

export function parsePattern({ source, flags }: RegExp): Node {
  const refused = /[mv]/.exec(flags)?.[0];
  if (refused) throw new Unshown(`its flag ${refused}`);
  const unicode = flags.includes('u');
  parser ??= new RegExpParser();
  const pattern = parser.parsePattern(source, 0, source.length, { unicode, unicodeSets: false });
  return new Reader(flags, source).either(pattern.alternatives);
}

class Reader {
  readonly #flags: string;
  /** Characters beyond ASCII that stand in the pattern: of these it is asked whether they have a property. */
  readonly #named: readonly number[];

  constructor(flags: string, source: string) {
    this.#flags = flags;
    this.#named = [...new Set(Array.from(source, (character) => character.codePointAt(0) as number))].filter((point) => point > 0x7f);
  }

  either(alternatives: readonly AST.Alternative[]): Node {
    const parts = alternatives.map(({ elements }): Node => {
      const inside = elements.map((element) => this.#element(element));
      return inside.length === 1 ? (inside[0] as Node) : { type: 'sequence', parts: inside };
    });
    return parts.length === 1 ? (parts[0] as Node) : { type: 'either', parts };
  }

  #element(element: AST.Element): Node {
    switch (element.type) {
      case 'Assertion':
        return this.#assertion(element);
      case 'Quantifier': {
        const { min, max } = element;
        return { type: 'repeat', of: this.#element(element.element), min, max };
      }
      case 'Group':
        if (element.modifiers) throw new Unshown('flags inside it');
        return this.either(element.alternatives);
      case 'CapturingGroup':
        return this.either(element.alternatives);
      case 'Backreference':
        throw new Unshown('referring back to a group');
      case 'Character':
        return this.#characters(single(element.value));
      case 'CharacterSet':
        return this.#characters(this.#namedSet(element).most);
      case 'CharacterClass':
        return this.#characters(this.#class(element));
      default:
        throw new Unshown(`“${element.raw}”`);
    }
  }

  #assertion(assertion: AST.Assertion): Node {
    const { kind } = assertion;
    if (kind === 'start' || kind === 'end') return { type: kind };
    if (kind === 'word') return { type: 'edge' };
    const { negate, alternatives } = assertion as AST.LookaroundAssertion;
    return { type: kind === 'lookahead' ? 'ahead' : 'behind', of: this.either(alternatives), isNot: negate };
  }

  #characters(set: CharacterSet): Node {
    return { type: 'characters', set: this.#flags.includes('i') ? inAnyCase(set) : set };
  }

  /** The most characters that a named set may have, and the least: beyond ASCII nobody asks which have a property. */
  #namedSet(set: AST.CharacterSet): { readonly most: CharacterSet; readonly least: CharacterSet } {
    const exactly = (characters: CharacterSet) => ({ most: characters, least: characters });
    switch (set.kind) {
      case 'any':
        return exactly(this.#flags.includes('s') ? ALL : complementOf(LINE_ENDS));
      case 'digit':
      case 'word':
      case 'space': {
        const named = { digit: DIGITS, word: WORDS, space: SPACES }[set.kind];
        // With u and i the long s and the sign of Kelvin are word characters, too.
        if (this.#flags.includes('i') && set.kind === 'word')
          return { most: set.negate ? complementOf(named) : unionOf(named, BEYOND_ASCII), least: set.negate ? [] : named };
        return exactly(set.negate ? complementOf(named) : named);
      }
      default: {
        const expression = new RegExp(`^${set.raw}$`, 'u');
        const has = (point: number) => expression.test(String.fromCodePoint(point));
        const asked = [...Array.from({ length: 128 }, (_, point) => point), ...this.#named];
        const least = unionOf(...asked.filter(has).map(single));
        const not = unionOf(...asked.filter((point) => !has(point)).map(single));
        return { most: complementOf(not), least };
      }
    }
  }

  #class({ negate, elements }: AST.CharacterClass): CharacterSet {
    const sets = elements.map((element) => {
      if (element.type === 'CharacterSet') return this.#namedSet(element);
      if (element.type === 'Character') return { most: single(element.value), least: single(element.value) };
      if (element.type === 'CharacterClassRange') {
        const range = setOf([element.min.value, element.max.value]);
        return { most: range, least: range };
      }
      throw new Unshown(`“${element.raw}”`);
    });
    // What is certainly in the class is certainly not in its complement.
    return negate ? complementOf(unionOf(...sets.map(({ least }) => least))) : unionOf(...sets.map(({ most }) => most));
  }
}

function single(point: number): CharacterSet {
  return setOf([point, point]);
}
