import { WITHHELD } from '../basics/text.ts';
import type { Place } from '../basics/verdict.ts';
import { textIn } from '../messages/render.ts';
import { ENTRY, type EntryKey, type PlaceSpec } from '../plan/plan.ts';
import type { Spot } from './failures.ts';

/** The JSON Pointer (RFC 6901) of a place, with the indexes of the entries that it is in; it may tell a secret name. */
export function pointerOf({ place, indexes, key }: Spot): string {
  return pointerWith(place, indexes, key);
}

/** The same for people: the names of a secret table are withheld. */
export function shownPointer({ place, indexes, key }: Spot): string {
  if (place.secretNames === 0) return pointerWith(place, indexes, key);
  const shown = indexes.map((name, depth) => (typeof name === 'string' && depth >= place.secretNames - 1 ? WITHHELD : name));
  return pointerWith(place, shown, key);
}

function pointerWith(place: PlaceSpec, indexes: readonly EntryKey[], key: string | undefined): string {
  let pointer = '';
  let entry = 0;
  for (const segment of place.segments) {
    pointer += `/${segment === ENTRY ? entryText(indexes[entry++]) : escapeSegment(segment)}`;
  }
  return key === undefined ? pointer : `${pointer}/${escapeSegment(key)}`;
}

function entryText(key: EntryKey | undefined): string {
  return typeof key === 'string' ? escapeSegment(key) : String(key ?? '*');
}

function escapeSegment(segment: string): string {
  return segment.includes('~') || segment.includes('/') ? segment.replaceAll('~', '~0').replaceAll('/', '~1') : segment;
}

export function placeOf(spot: Spot, locale: string | undefined): Place {
  const { path, label } = spot.place;
  const pointer = shownPointer(spot);
  return label === '' ? { field: path, pointer } : { field: path, pointer, label: textIn(label, locale) };
}
