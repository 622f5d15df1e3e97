import type { Reads } from '../declared/rule.ts';
import { tooMuchWork } from '../messages/catalogue.ts';
import { type EntryKey, type Frame, PRESENT, type RolePlan, UNSOUND, Unstored } from '../plan/plan.ts';
import { addEngineFinding } from './engine-finding.ts';
import { entriesBelow } from './entries.ts';
import type { Spot } from './failures.ts';
import type { Run } from './run.ts';
import { isSound, unstoredIn, valueIn } from './value.ts';

// Reads the values of bound roles out of frames.

/** Why roles cannot be read, and the role that it is for. */
export class Unread {
  constructor(
    readonly why: 'absent' | 'unsound' | 'too-many' | Unstored,
    readonly role: RolePlan,
  ) {}
  get cause(): unknown {
    const { why } = this;
    const known = why instanceof Unstored ? why.cause : undefined;
    return known ?? new Error(`The stored record was given without "${this.role.place.path}", which a rule reads.`);
  }
}

/** In place of a value: reading it would cost more than a submission may. */
const TOO_MANY = Symbol('too many');

/** The values by role. Unsound outweighs absent: it has a finding already. */
export function readRoles(run: Run, roles: readonly RolePlan[], frames: readonly Frame[]): Reads | Unread {
  const read: { [role: string]: unknown } = {};
  let missing: RolePlan | undefined;
  for (const role of roles) {
    const frame = frameOf(run, role, frames);
    const value = frame === undefined ? undefined : role.entry ? readEntries(run, role, frame) : readRole(role, frame);
    if (value === UNSOUND) return new Unread('unsound', role);
    if (value === TOO_MANY) return new Unread('too-many', role);
    if (value instanceof Unstored) return new Unread(value, role);
    if ((value === undefined || value === null) && !role.spec.maybe) missing ??= role;
    read[role.name] = value;
  }
  return missing ? new Unread('absent', missing) : read;
}

/** The frame that a role reads: of what becomes of the record, or of the record as it is stored. */
function frameOf(run: Run, { depth, isStored }: RolePlan, frames: readonly Frame[]): Frame | undefined {
  const frame = frames[depth] as Frame;
  return isStored ? run.amending?.before(frame) : frame;
}

function readRole(role: RolePlan, frame: Frame): unknown {
  const { step, spec } = role;
  const held = frame[step.slot];
  if (!step.sort.isMade && held !== null) return held;
  const isNested = held === PRESENT || Array.isArray(held) || typeof held === 'string';
  if (spec.reads === 'tag') return held ?? undefined;
  // A presence rule asks whether something was given: a null was, and the inside of a group does not matter.
  // Of what is empty when it is left out nobody can tell the one from the other.
  if (spec.reads === 'presence') return isNested ? !(step.filledBy && Array.isArray(held) && held.length === 0) || undefined : held;
  if (isNested) return unstoredIn(step, frame) ?? (isSound(step, frame) ? valueIn(step, frame) : UNSOUND);
  return held ?? undefined;
}

/** All entries below a list that have what the role needs; unsound when one of them is. */
function readEntries(run: Run, role: RolePlan, frame: Frame): unknown {
  const { lists, roles } = role.entry as NonNullable<RolePlan['entry']>;
  const level = entriesBelow(lists, frame);
  if (!Array.isArray(level)) return level;
  if (!run.spend(level.length)) {
    const place = { place: role.place, indexes: [] };
    addEngineFinding(run, 'too-many', [place], { facts: { most: run.budget }, says: tooMuchWork, entry: 'too-many/work' });
    return TOO_MANY;
  }
  // Where each entry is handed all of its list, they are read once.
  const known = run.read;
  if (known?.role === role && known.frame === frame) return known.entries;
  const entries = entriesRead(roles, level);
  run.read = { role, frame, entries };
  return entries;
}

function entriesRead(roles: readonly RolePlan[], level: readonly Frame[]): readonly Reads[] | typeof UNSOUND | Unstored {
  const entries: Reads[] = [];
  for (const inside of level) {
    const entry = readEntry(roles, inside);
    if (entry === UNSOUND || entry instanceof Unstored) return entry;
    if (entry !== undefined) entries.push(Object.freeze(entry) as Reads);
  }
  return Object.freeze(entries);
}

/** What the roles read of one entry; `undefined` when it lacks what one of them needs. */
export function readEntry(roles: readonly RolePlan[], frame: Frame): Reads | undefined | typeof UNSOUND | Unstored {
  const entry: { [role: string]: unknown } = {};
  let isMissing = false;
  for (const inner of roles) {
    const value = readRole(inner, frame);
    if (value === UNSOUND || value instanceof Unstored) return value;
    if ((value === undefined || value === null) && !inner.spec.maybe) isMissing = true;
    entry[inner.name] = value;
  }
  return isMissing ? undefined : entry;
}

/** The place of a role, in the entries that it is read from. */
export function spotOf(role: RolePlan, indexes: readonly EntryKey[]): Spot {
  return { place: role.place, indexes: indexes.slice(0, role.depth) };
}
