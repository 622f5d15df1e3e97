import type { Readable } from 'node:stream';

/** A file as it comes, before its bytes. */
export interface IncomingFile {
  /** The name of the form's field. */
  readonly field: string;
  /** A base name, never a path. */
  readonly name: string;
  /** As the sender says. */
  readonly mediaType: string;
}

/** Where files go that are not to be held in memory. */
export interface FileStore {
  /** Takes the bytes of a file; what it gives is the `content` of the upload. It has to reject when the stream fails. */
  keep(file: IncomingFile, bytes: Readable): Promise<unknown>;
  /** Lets go of what was kept: the request has failed. */
  discard(content: unknown): Promise<void> | void;
}

/** The files of one request. */
export class Keeping {
  readonly #store: FileStore;
  #kept: unknown[] = [];

  constructor(store: FileStore) {
    this.#store = store;
  }

  async keep(file: IncomingFile, bytes: Readable): Promise<unknown> {
    const content = await this.#store.keep(file, bytes);
    this.#kept.push(content);
    return content;
  }

  /** Nothing that goes wrong here may hide what went wrong before. */
  async discardAll(): Promise<void> {
    const kept = this.#kept;
    this.#kept = [];
    await Promise.allSettled(kept.map(async (content) => this.#store.discard(content)));
  }
}
