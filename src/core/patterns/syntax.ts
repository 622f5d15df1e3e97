import { type CharacterSet, complementOf, inAnyCase, setOf, unionOf } from './character-set.ts';

// Parses the source of a regular expression (ECMA-262, 22.2.1) into a tree, as far as linear time can be shown for it.

export type Node =
  | { readonly type: 'characters'; readonly set: CharacterSet }
  | { readonly type: 'sequence'; readonly parts: readonly Node[] }
  | { readonly type: 'either'; readonly parts: readonly Node[] }
  | { readonly type: 'repeat'; readonly of: Node; readonly min: number; readonly max: number }
  | { readonly type: 'start' | 'end' | 'edge' };

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
const CONTROLS: { readonly [letter: string]: number } = { n: 10, r: 13, t: 9, v: 11, f: 12, 0: 0 };

export function parsePattern(expression: RegExp): Node {
  return new Parser(expression).parse();
}

class Parser {
  readonly #source: string;
  readonly #flags: string;
  #at = 0;

  constructor({ source, flags }: RegExp) {
    this.#source = source;
    this.#flags = flags;
  }

  parse(): Node {
    if (/[mv]/.test(this.#flags)) throw new Unshown(`its flag ${/[mv]/.exec(this.#flags)?.[0]}`);
    const node = this.#either();
    if (this.#at < this.#source.length) throw new Unshown(`“${this.#source.slice(this.#at)}”`);
    return node;
  }

  #peek(): string {
    return this.#source[this.#at] ?? '';
  }

  #take(text: string): boolean {
    if (!this.#source.startsWith(text, this.#at)) return false;
    this.#at += text.length;
    return true;
  }

  #either(): Node {
    const parts = [this.#sequence()];
    while (this.#take('|')) parts.push(this.#sequence());
    return parts.length === 1 ? (parts[0] as Node) : { type: 'either', parts };
  }

  #sequence(): Node {
    const parts: Node[] = [];
    while (this.#peek() !== '' && this.#peek() !== '|' && this.#peek() !== ')') parts.push(this.#repeated(this.#atom()));
    return parts.length === 1 ? (parts[0] as Node) : { type: 'sequence', parts };
  }

  #repeated(of: Node): Node {
    const range = this.#range();
    if (!range) return of;
    this.#take('?');
    return { type: 'repeat', of, min: range[0], max: range[1] };
  }

  #range(): readonly [number, number] | undefined {
    if (this.#take('*')) return [0, Number.POSITIVE_INFINITY];
    if (this.#take('+')) return [1, Number.POSITIVE_INFINITY];
    if (this.#take('?')) return [0, 1];
    const counted = /^\{(\d+)(,(\d*))?\}/.exec(this.#source.slice(this.#at, this.#at + 40));
    if (!counted) return undefined;
    this.#at += counted[0].length;
    const min = Number(counted[1]);
    return [min, counted[2] === undefined ? min : counted[3] ? Number(counted[3]) : Number.POSITIVE_INFINITY];
  }

  #atom(): Node {
    if (this.#take('(')) return this.#group();
    if (this.#take('[')) return this.#characters(this.#class());
    if (this.#take('^')) return { type: 'start' };
    if (this.#take('$')) return { type: 'end' };
    if (this.#take('.')) return this.#characters(this.#flags.includes('s') ? setOf([0, 0x10ffff]) : complementOf(LINE_ENDS));
    if (this.#take('\\b') || this.#take('\\B')) return { type: 'edge' };
    return this.#characters(this.#peek() === '\\' ? this.#escape() : this.#literal());
  }

  #group(): Node {
    if (/^\?(=|!|<=|<!)/.test(this.#source.slice(this.#at, this.#at + 3))) throw new Unshown('looking ahead or behind');
    if (!this.#take('?:') && this.#take('?')) {
      // A named group; its name plays no part, since nothing may refer back to it.
      const name = /^<[^>]+>/.exec(this.#source.slice(this.#at));
      if (!name) throw new Unshown('“(?”');
      this.#at += name[0].length;
    }
    const node = this.#either();
    this.#take(')');
    return node;
  }

  #characters(set: CharacterSet): Node {
    return { type: 'characters', set: this.#flags.includes('i') ? inAnyCase(set) : set };
  }

  #literal(): CharacterSet {
    const point = this.#source.codePointAt(this.#at) as number;
    // Without the flag u a pattern sees the halves of a surrogate pair one by one.
    const width = this.#flags.includes('u') && point > 0xffff ? 2 : 1;
    const value = width === 2 ? point : this.#source.charCodeAt(this.#at);
    this.#at += width;
    return setOf([value, value]);
  }

  #escape(): CharacterSet {
    this.#at++;
    const letter = this.#source[this.#at++] as string;
    switch (letter) {
      case 'd':
        return DIGITS;
      case 'D':
        return complementOf(DIGITS);
      case 'w':
        return WORDS;
      case 'W':
        return complementOf(WORDS);
      case 's':
        return SPACES;
      case 'S':
        return complementOf(SPACES);
      case 'p':
      case 'P':
        return this.#property(letter);
      case 'x':
        return this.#code(/^[0-9a-fA-F]{2}/);
      case 'u':
        return this.#take('{') ? this.#braced() : this.#code(/^[0-9a-fA-F]{4}/);
      case 'c':
        throw new Unshown('“\\c”');
      case 'k':
        throw new Unshown('referring back to a group');
      default:
        if (/[1-9]/.test(letter)) throw new Unshown('referring back to a group');
        return setOf([CONTROLS[letter] ?? letter.charCodeAt(0), CONTROLS[letter] ?? letter.charCodeAt(0)]);
    }
  }

  #code(form: RegExp): CharacterSet {
    const digits = form.exec(this.#source.slice(this.#at, this.#at + 4))?.[0];
    if (!digits) throw new Unshown('“\\x” or “\\u” without its digits');
    this.#at += digits.length;
    const point = Number.parseInt(digits, 16);
    return setOf([point, point]);
  }

  #braced(): CharacterSet {
    const end = this.#source.indexOf('}', this.#at);
    const point = Number.parseInt(this.#source.slice(this.#at, end), 16);
    this.#at = end + 1;
    return setOf([point, point]);
  }

  /** The members in ASCII are asked of the engine; beyond it, any character may be one. */
  #property(letter: string): CharacterSet {
    const end = this.#source.indexOf('}', this.#at);
    if (!this.#flags.includes('u') || !this.#take('{') || end < 0) throw new Unshown(`“\\${letter}” without the flag u`);
    const expression = new RegExp(`^\\${letter}{${this.#source.slice(this.#at, end)}}$`, 'u');
    this.#at = end + 1;
    const ascii = Array.from({ length: 128 }, (_, point) => point).filter((point) => expression.test(String.fromCharCode(point)));
    return unionOf(...ascii.map((point) => setOf([point, point])), setOf([128, 0x10ffff]));
  }

  #class(): CharacterSet {
    const isNegated = this.#take('^');
    let members = setOf();
    while (!this.#take(']')) {
      const from = this.#member();
      if (from.length === 1 && this.#peek() === '-' && this.#source[this.#at + 1] !== ']') {
        this.#at++;
        const to = this.#member();
        const [first, last] = [from[0]?.[0] as number, to[0]?.[1] as number];
        members = unionOf(members, to.length === 1 ? setOf([first, last]) : unionOf(from, to, setOf([0x2d, 0x2d])));
      } else members = unionOf(members, from);
    }
    // Case is folded before the complement is taken.
    return isNegated ? complementOf(members) : members;
  }

  #member(): CharacterSet {
    if (this.#take('\\b')) return setOf([8, 8]);
    if (this.#take('\\-')) return setOf([0x2d, 0x2d]);
    return this.#peek() === '\\' ? this.#escape() : this.#literal();
  }
}
