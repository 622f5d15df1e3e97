import { Misuse } from '../../basics/misuse.ts';

/** A command of a shell: its words, and the text that stands below it (a here-document). */
export interface ShellCommand {
  readonly words: readonly string[];
  readonly input?: string;
}

/** What a letter means behind a backslash in `$'…'`. */
const ESCAPES: { readonly [letter: string]: string } = {
  a: '\x07',
  b: '\b',
  e: '\x1b',
  f: '\f',
  n: '\n',
  r: '\r',
  t: '\t',
  v: '\v',
};

/**
 * Reads one command as a shell would (POSIX, with `$'…'` as in bash), and runs nothing of it: variables and substitutions stay as they are
 * written.
 *
 * @throws Misuse for a quote or a here-document that does not end
 */
export function shellWords(text: string): ShellCommand {
  const reader = new Reader(text.replaceAll('\r\n', '\n'));
  return reader.command();
}

class Reader {
  readonly #text: string;
  #at = 0;

  constructor(text: string) {
    this.#text = text;
  }

  command(): ShellCommand {
    const words: string[] = [];
    let end: string | undefined;
    for (;;) {
      this.#skipBlanks();
      const [here] = /^<<-?/.exec(this.#ahead(3)) ?? [];
      if (here) {
        this.#at += here.length;
        this.#skipBlanks();
        end = this.#word() ?? '';
        continue;
      }
      const word = this.#word();
      if (word === undefined) break;
      words.push(word);
    }
    return { words, ...(end !== undefined && { input: this.#below(end) }) };
  }

  #ahead(count: number): string {
    return this.#text.slice(this.#at, this.#at + count);
  }

  #skipBlanks(): void {
    for (;;) {
      if (this.#ahead(2) === '\\\n') this.#at += 2;
      else if (this.#ahead(1) === ' ' || this.#ahead(1) === '\t') this.#at += 1;
      else return;
    }
  }

  /** The next word; none where the command ends. */
  #word(): string | undefined {
    let word: string | undefined;
    for (;;) {
      const next = this.#ahead(1);
      if (next === '' || /[\s;|&<>]/.test(next)) return word;
      word ??= '';
      if (next === "'") word += this.#until("'");
      else if (next === '"') word += this.#quoted();
      else if (this.#ahead(2) === "$'") word += this.#escaped();
      else if (this.#ahead(2) === '\\\n') this.#at += 2;
      else if (next === '\\') {
        word += this.#text.slice(this.#at + 1, this.#at + 2);
        this.#at += 2;
      } else {
        word += next;
        this.#at += 1;
      }
    }
  }

  #until(quote: string): string {
    const end = this.#text.indexOf(quote, this.#at + 1);
    if (end < 0) throw new Misuse(`A quote (${quote}) in the command does not end; copy all of it.`);
    const inside = this.#text.slice(this.#at + 1, end);
    this.#at = end + 1;
    return inside;
  }

  #quoted(): string {
    let inside = '';
    for (let at = this.#at + 1; at < this.#text.length; at++) {
      const letter = this.#text[at] as string;
      if (letter === '"') {
        this.#at = at + 1;
        return inside;
      }
      const next = this.#text[at + 1] ?? '';
      if (letter !== '\\' || !'$`"\\\n'.includes(next)) inside += letter;
      else {
        if (next !== '\n') inside += next;
        at += 1;
      }
    }
    throw new Misuse('A quote (") in the command does not end; copy all of it.');
  }

  #escaped(): string {
    let inside = '';
    for (let at = this.#at + 2; at < this.#text.length; at++) {
      const letter = this.#text[at] as string;
      if (letter === "'") {
        this.#at = at + 1;
        return inside;
      }
      if (letter !== '\\') inside += letter;
      else {
        const [whole, code, code8] = /^(?:x([\da-f]{1,2})|u([\da-f]{1,4}))/i.exec(this.#text.slice(at + 1, at + 6)) ?? [];
        const next = this.#text[at + 1] ?? '';
        inside += whole ? String.fromCharCode(Number.parseInt(code ?? (code8 as string), 16)) : (ESCAPES[next] ?? next);
        at += whole?.length ?? 1;
      }
    }
    throw new Misuse("A quote ($') in the command does not end; copy all of it.");
  }

  /** The lines below the command, up to the one that ends them. */
  #below(end: string): string {
    const start = this.#text.indexOf('\n', this.#at) + 1;
    const lines = start === 0 ? [] : this.#text.slice(start).split('\n');
    const last = lines.indexOf(end);
    if (last < 0) throw new Misuse(`The text below the command does not end with a line ${end}; copy all of it.`);
    return lines
      .slice(0, last)
      .map((line) => `${line}\n`)
      .join('');
  }
}
