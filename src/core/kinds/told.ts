import type { KindSpec, StoredAs } from '../declared/kind.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { choiceTold } from './choice.ts';
import { dayTold } from './day.ts';
import { exactTold } from './exact.ts';
import { flagTold } from './flag.ts';
import { groupTold } from './group.ts';
import { inlineUploadTold } from './inline-upload.ts';
import { jsonTold } from './json-value.ts';
import { listTold } from './list.ts';
import { decimalTold, wholeTold } from './numbers.ts';
import { shapesTold } from './shapes.ts';
import { tableTold } from './table.ts';
import { textTold } from './text.ts';
import { momentTold, timeOfDayTold } from './times.ts';
import { uploadTold } from './upload.ts';

/** Every kind, as people are offered them; where several read the same values, the narrower one first. */
export const KINDS: ToldKind[] = [
  textTold,
  wholeTold,
  decimalTold,
  exactTold,
  flagTold,
  choiceTold,
  dayTold,
  momentTold,
  timeOfDayTold,
  uploadTold,
  inlineUploadTold,
  jsonTold,
  groupTold,
  listTold,
  tableTold,
  shapesTold,
];

/** What is told of a kind: of one of the application's own, what is told of that which it is made upon. */
export function toldOf({ is }: Pick<KindSpec, 'is'>): ToldKind | undefined {
  for (const name of is) for (const told of KINDS) if (told.spec.name === name) return told;
  return undefined;
}

/** The kind that a column is read as. */
export function readFrom(storedAs: StoredAs): ToldKind | undefined {
  return KINDS.find((told) => told.isReadFrom && told.spec.storedAs === storedAs);
}

/** The kind whose fields something makes, by its name. */
export function madeBy(name: string): ToldKind | undefined {
  return KINDS.find(({ made }) => made === name);
}
