import { once } from 'node:events';
import { createWriteStream, existsSync, realpathSync, renameSync, rmSync, statSync, type WriteStream } from 'node:fs';
import { besideOf, unwritable } from './whole-file.ts';

/**
 * A file that is written bit by bit beside its place, and stands there whole once it is ended. What is no file, such as a pipe, is written as
 * it comes.
 */
export class OutFile {
  readonly #path: string;
  readonly #isFile: boolean;
  readonly #beside: string;
  readonly #more: string;
  #stream: WriteStream | undefined;
  #problem: NodeJS.ErrnoException | undefined;
  #isFree: (() => void) | undefined;

  readonly #mode: number;

  /**
   * @param more what else to do where there is no room left for it
   * @param mode who may read it, as far as the process lets anybody
   */
  constructor(path: string, { more = '', mode = 0o666 }: { readonly more?: string; readonly mode?: number } = {}) {
    this.#mode = mode;
    this.#path = realOf(path);
    this.#more = more;
    this.#isFile = !existsSync(path) || statSync(path).isFile();
    this.#beside = this.#isFile ? besideOf(this.#path) : this.#path;
  }

  async write(text: string | Buffer): Promise<void> {
    this.#check();
    if (this.#open().write(text)) return;
    await new Promise<void>((resolve) => {
      this.#isFree = resolve;
    });
  }

  async end(): Promise<void> {
    await this.#close(this.#open());
    this.#check();
    if (this.#isFile) renameSync(this.#beside, this.#path);
  }

  /** What was written is left out: what stood there before stays. */
  async drop(): Promise<void> {
    if (this.#stream) await this.#close(this.#stream);
    if (this.#isFile) rmSync(this.#beside, { force: true });
  }

  #open(): WriteStream {
    this.#stream ??= createWriteStream(this.#beside, { flags: this.#isFile ? 'wx' : 'w', mode: this.#mode })
      .on('error', (cause) => {
        this.#problem = cause;
        this.#isFree?.();
      })
      .on('drain', () => this.#isFree?.());
    return this.#stream;
  }

  async #close(stream: WriteStream): Promise<void> {
    const closed = once(stream, 'close').catch(() => undefined);
    stream.end();
    if (!stream.closed) await closed;
  }

  #check(): void {
    if (this.#problem) throw unwritable(this.#path, this.#problem, this.#more);
  }
}

/** Where a link leads, so that it is not the link that is replaced. */
function realOf(path: string): string {
  return existsSync(path) ? realpathSync(path) : path;
}
