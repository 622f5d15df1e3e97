import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rm, rmdir, stat, writeFile } from 'node:fs/promises';
import { hostname } from 'node:os';
import { basename, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { FileStore } from './receive/files.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';

/**
 * Keeps files in a folder, under names of its own; the `content` of an upload is then the path of the file.
 *
 * While a request is read and judged, a note in `.coming` says that its files are nobody's yet. What a process leaves behind there when it
 * is killed is taken away by the next that keeps a file: at once where that process is known to be gone, else after a day.
 */
export function filesIn(folder: string): FileStore {
  const coming = join(folder, COMING);
  const notes = join(coming, OWN);
  let ready: Promise<unknown> | undefined;
  const note = async (name: string) => {
    for (let attempt = 1; ; attempt++) {
      await mkdir(notes, { recursive: true });
      // Somebody whose last file has just come takes the folder away.
      const error = await writeFile(join(notes, name), '').catch((error: NodeJS.ErrnoException) => error);
      if (!error) return;
      if (error.code !== 'ENOENT' || attempt === ATTEMPTS) throw error;
    }
  };
  const forget = async (path: string) => {
    await rm(join(notes, basename(path)), { force: true });
    // Both stay while there is something in them.
    await rmdir(notes).then(
      () => rmdir(coming).catch(() => undefined),
      () => undefined,
    );
  };
  const discard = async (path: string) => {
    await rm(path, { force: true });
    await forget(path);
  };
  return {
    async keep(_file, bytes) {
      // A folder that cannot be swept can still be written to.
      ready ??= sweep(folder, coming).catch(() => undefined);
      await ready;
      const name = crypto.randomUUID();
      const path = join(folder, name);
      await note(name);
      try {
        await pipeline(bytes, createWriteStream(path, { flags: 'wx' }));
      } catch (error) {
        await discard(path);
        throw error;
      }
      return path;
    },
    handOver: (path) => forget(String(path)),
    discard: (path) => discard(String(path)),
  };
}

/** How often a folder is made that others take away meanwhile. */
const ATTEMPTS = 20;
const COMING = '.coming';
/** Names the process in a way that outlives it: the machine, its number there, and since when, by a clock that nobody sets. */
const STARTED = Math.round(Number(process.hrtime.bigint()) / 1e6 - process.uptime() * 1000);
const MACHINE = encodeURIComponent(hostname());
const OWN = `${MACHINE}~${process.pid}~${STARTED}`;
const DAY = 24 * 60 * 60 * 1000;

async function sweep(folder: string, coming: string): Promise<void> {
  for (const owner of await readdir(coming).catch(() => [])) {
    if (owner === OWN || !(await isGone(owner, join(coming, owner)))) continue;
    for (const name of await readdir(join(coming, owner))) await rm(join(folder, name), { force: true });
    await rm(join(coming, owner), { recursive: true, force: true });
  }
  await rmdir(coming).catch(() => undefined);
}

/** Whether a process is known to be gone. Threads of one process differ by some milliseconds in when they take it to have started. */
async function isGone(owner: string, notes: string): Promise<boolean> {
  const [machine, pid, started] = owner.split('~');
  if (machine === MACHINE && Number(pid) === process.pid) return Math.abs(Number(started) - STARTED) > 1000;
  if (machine === MACHINE && !isRunning(Number(pid))) return true;
  const { mtimeMs } = await stat(notes);
  return Date.now() - mtimeMs > DAY;
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    // Somebody else's process may not be asked, and is there.
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
