// Parses ICU MessageFormat (unicode-org.github.io/icu, "Formatting Messages"): arguments, numbers, dates and times with a style or a
// skeleton, plurals, ordinals and selects, with ICU's quoting by apostrophes.
//
// A parser of our own, since a page that shows three text fields would else load more of it than of everything together; a test
// compares it with a well-known one on every message of the catalogues and on made-up ones.

export type Element =
  | { readonly type: 0; readonly value: string }
  | { readonly type: 1; readonly value: string }
  | { readonly type: 2 | 3 | 4; readonly value: string; readonly style: string | undefined }
  | { readonly type: 5; readonly value: string; readonly options: Options }
  | {
      readonly type: 6;
      readonly value: string;
      readonly options: Options;
      readonly offset: number;
      readonly pluralType: 'cardinal' | 'ordinal';
    }
  | { readonly type: 7 };
type Options = { readonly [name: string]: { readonly value: readonly Element[] } };

/**
 * The syntax tree of a message.
 *
 * @throws SyntaxError for a text that is none, with the place
 */
export function parseMessage(text: string): readonly Element[] {
  return new Parser(text).message(false, 0);
}

/** Element types: 0 literal, 1 argument, 2 number, 3 date, 4 time, 5 select, 6 plural, 7 the # of a plural. */
const TYPES: { readonly [name: string]: 2 | 3 | 4 } = { number: 2, date: 3, time: 4 };
/** Made with the first message that is parsed. */
let name: RegExp | undefined;
const nameAt = () => (name ??= /[^\s\p{Pattern_Syntax}]+/uy);
const SPACE = /\s*/y;

class Parser {
  readonly #text: string;
  #at = 0;

  constructor(text: string) {
    this.#text = text;
  }

  /** Up to the end of the text or, inside a branch, up to its brace. */
  message(isPlural: boolean, depth: number): Element[] {
    const elements: Element[] = [];
    let literal = '';
    const flush = () => {
      if (literal !== '') elements.push({ type: 0, value: literal });
      literal = '';
    };
    while (this.#at < this.#text.length) {
      const character = this.#text[this.#at] as string;
      if (character === '}' && depth > 0) break;
      if (character === '{') {
        flush();
        elements.push(this.#argument(depth));
      } else if (character === '#' && isPlural) {
        flush();
        this.#at++;
        elements.push({ type: 7 });
      } else if (character === "'") literal += this.#quoted(isPlural);
      else {
        literal += character;
        this.#at++;
      }
    }
    flush();
    return elements;
  }

  /** An apostrophe quotes only before what has a meaning; two of them are one. */
  #quoted(isPlural: boolean): string {
    const next = this.#text[++this.#at];
    if (next === "'") {
      this.#at++;
      return "'";
    }
    if (!(next === '{' || next === '}' || next === '<' || next === '>' || (next === '#' && isPlural))) return "'";
    let quoted = '';
    for (; this.#at < this.#text.length; this.#at++) {
      const character = this.#text[this.#at] as string;
      if (character !== "'") quoted += character;
      else if (this.#text[this.#at + 1] === "'") {
        quoted += "'";
        this.#at++;
      } else {
        this.#at++;
        break;
      }
    }
    return quoted;
  }

  #argument(depth: number): Element {
    this.#at++;
    const value = this.#name('a name');
    if (this.#take('}')) return { type: 1, value };
    this.#need(',');
    const type = this.#name('a type');
    if (Object.hasOwn(TYPES, type)) {
      const style = this.#take(',') ? this.#style() : undefined;
      this.#need('}');
      return { type: TYPES[type] as 2, value, style };
    }
    if (type !== 'plural' && type !== 'selectordinal' && type !== 'select') this.#fail(`the type ${type}`);
    this.#need(',');
    const isPlural = type !== 'select';
    const offset = isPlural && this.#take('offset:') ? Number(this.#name('a number')) : 0;
    const options = this.#options(isPlural, depth);
    return isPlural
      ? { type: 6, value, options, offset, pluralType: type === 'plural' ? 'cardinal' : 'ordinal' }
      : { type: 5, value, options };
  }

  #options(isPlural: boolean, depth: number): Options {
    const options: { [name: string]: { readonly value: readonly Element[] } } = {};
    while (!this.#take('}')) {
      const name = (isPlural && this.#take('=') ? '=' : '') + this.#name('a branch');
      if (Object.hasOwn(options, name)) this.#fail(`the branch ${name} twice`);
      this.#need('{');
      options[name] = { value: this.message(isPlural, depth + 1) };
      this.#need('}');
    }
    if (!options.other) this.#fail('no branch "other"');
    return options;
  }

  #style(): string {
    this.#space();
    const end = this.#text.indexOf('}', this.#at);
    const style = this.#text.slice(this.#at, end < 0 ? this.#at : end).trim();
    if (style === '') this.#fail('a style that is empty');
    this.#at = end;
    return style;
  }

  #name(what: string): string {
    this.#space();
    const expression = nameAt();
    expression.lastIndex = this.#at;
    const name = expression.exec(this.#text)?.[0] ?? this.#fail(`${what} missing`);
    this.#at += name.length;
    this.#space();
    return name;
  }

  #take(token: string): boolean {
    this.#space();
    if (!this.#text.startsWith(token, this.#at)) return false;
    this.#at += token.length;
    return true;
  }

  #need(token: string): void {
    if (!this.#take(token)) this.#fail(`${token} missing`);
  }

  #space(): void {
    SPACE.lastIndex = this.#at;
    SPACE.exec(this.#text);
    this.#at = SPACE.lastIndex;
  }

  #fail(what: string): never {
    throw new SyntaxError(`${what} at ${this.#at + 1}`);
  }
}
