import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { FileStore } from './receive/files.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';

/** Keeps files in a folder, under names of its own; the `content` of an upload is then the path of the file. */
export function filesIn(folder: string): FileStore {
  return {
    async keep(_file, bytes) {
      await mkdir(folder, { recursive: true });
      const path = join(folder, crypto.randomUUID());
      try {
        await pipeline(bytes, createWriteStream(path, { flags: 'wx' }));
      } catch (error) {
        await rm(path, { force: true });
        throw error;
      }
      return path;
    },
    discard: (path) => rm(String(path), { force: true }),
  };
}
