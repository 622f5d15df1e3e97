import { resolve } from 'node:path';
import { Misuse } from '../basics/misuse.ts';
import { withoutPassword } from '../databases/address.ts';
import { isAddress } from '../reading/http-in.ts';
import { givenText } from '../records/settings.ts';
import type { StartFlags } from './begin.ts';
import type { JobFolder, Manifest } from './folder/job.ts';
import { checkSources } from './sources/bytes.ts';

/** What is gone on with is what was begun: the same data, judged in the same way. */
export function checkSame(
  folder: JobFolder,
  manifest: Manifest,
  data: readonly string[],
  flags: StartFlags,
  named: ReadonlySet<string>,
): void {
  const begunWith = (what: string, was: string) =>
    new Misuse(`${flags.to} is the screening of ${what}: it was begun with ${was}. Name the same, or another folder.`);
  const files = manifest.sources.flatMap(({ path }) => path ?? []);
  const asked = data.map((file) => (isAddress(file) ? withoutPassword(file) : resolve(file)));
  if (asked.length > 0 && (asked.length !== files.length || asked.some((file, at) => file !== files[at])))
    throw begunWith('other data', manifest.sources.map(({ name }) => name).join(', '));
  for (const name of ['intake', 'locale', 'occasion', 'report', 'now', 'given', 'as'] as const) {
    const text = flags[name];
    if (text === undefined || !named.has(name)) continue;
    const wanted = name === 'given' ? givenText(text) : text;
    if (wanted !== manifest[name])
      throw begunWith(`another --${name}`, name === 'given' ? 'other values' : String(manifest[name] ?? 'none'));
  }
  for (const name of ['rejected', 'accepted'] as const) {
    const path = flags[name];
    if (path !== undefined && resolve(path) !== manifest.writes[name])
      throw begunWith(`another --${name}`, manifest.writes[name] ?? 'none');
  }
  if (
    flags.into !== undefined &&
    (manifest.writes.into === undefined || (flags.intoTable ?? manifest.writes.into) !== manifest.writes.into)
  )
    throw begunWith('another --into', manifest.writes.into ?? 'none');
  if (asked.length > 0 || !folder.has('summary.json')) checkSources(manifest.sources, folder.ranges());
}
