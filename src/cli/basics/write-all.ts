import { writeSync } from 'node:fs';

/** Writes all of some bytes, however many a call takes. */
export function writeAll(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length; ) at += writeSync(file, bytes, at);
}
