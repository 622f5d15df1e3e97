import { existsSync, type FSWatcher, readdirSync, watch } from 'node:fs';
import { dirname, join } from 'node:path';

/** Milliseconds in which several changes count as one: editors write a file in several steps. */
const SETTLING = 150;
/** Folders watched at most. */
const MOST_FOLDERS = 400;

/**
 * Calls `changed` whenever something in these folders changes, or in folders inside them: not in installed packages, nor where a dot says
 * that it is hidden. A watcher of whole trees would go through all packages.
 *
 * @param isOf whether a file of this name counts; all do when nothing is said
 * @returns what ends it
 */
export function watched(folders: readonly string[], changed: () => void, isOf: (name: string) => boolean = () => true): () => void {
  const watchers = new Map<string, FSWatcher>();
  let timer: NodeJS.Timeout | undefined;
  const look = (folder: string): void => {
    if (watchers.has(folder) || watchers.size >= MOST_FOLDERS || !existsSync(folder)) return;
    const watcher = watch(folder, (event, name) => {
      if (name === null || name.startsWith('.')) return;
      // There may be another folder in it now, or it may be gone itself.
      if (event === 'rename') {
        forget(folder);
        look(folder);
      }
      if (!isOf(name)) return;
      clearTimeout(timer);
      timer = setTimeout(changed, SETTLING);
    });
    watcher.on('error', () => forget(folder));
    watchers.set(folder, watcher);
    for (const entry of readdirSync(folder, { withFileTypes: true }))
      if (entry.isDirectory() && !entry.name.startsWith('.') && entry.name !== 'node_modules') look(join(folder, entry.name));
  };
  const forget = (folder: string): void => {
    watchers.get(folder)?.close();
    watchers.delete(folder);
  };
  for (const folder of folders) look(folder);
  return () => {
    clearTimeout(timer);
    for (const folder of [...watchers.keys()]) forget(folder);
  };
}

/** The folder of the package that a module is in, else its own. */
export function packageFolder(module: string): string {
  for (let folder = dirname(module); folder !== dirname(folder); folder = dirname(folder))
    if (existsSync(join(folder, 'package.json'))) return folder;
  return dirname(module);
}
