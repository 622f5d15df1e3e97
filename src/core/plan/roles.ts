import type { Reads } from '../rules/definition.ts';
import { type EntryKey, type Frame, PRESENT, type RolePlan, UNSOUND, UNSTORED } from './plan.ts';
import type { Spot } from './run.ts';
import { isSound, isWhole, valueIn } from './value.ts';

// Reads the values of bound roles out of frames.

/** Why roles cannot be read, and the role that it is for. */
export class Unread {
  constructor(
    readonly why: 'absent' | 'unsound' | 'unstored',
    readonly role: RolePlan,
  ) {}
  get cause(): Error {
    return new Error(`The stored record has no "${this.role.place.path}", which a rule reads.`);
  }
}

/** The values by role. Unsound outweighs absent: it has a finding already. */
export function readRoles(roles: readonly RolePlan[], frames: readonly Frame[]): Reads | Unread {
  const read: { [role: string]: unknown } = {};
  let missing: RolePlan | undefined;
  for (const role of roles) {
    const value = role.entry ? readEntries(role, frames) : readRole(role, frames[role.depth] as Frame);
    if (value === UNSOUND) return new Unread('unsound', role);
    if (value === UNSTORED) return new Unread('unstored', role);
    if ((value === undefined || value === null) && !role.spec.maybe) missing ??= role;
    read[role.name] = value;
  }
  return missing ? new Unread('absent', missing) : read;
}

function readRole(role: RolePlan, frame: Frame): unknown {
  const { step } = role;
  const held = frame[step.slot];
  if (step.op === 'scalar' && held !== null) return held;
  const isNested = held === PRESENT || Array.isArray(held) || (step.op === 'shapes' && typeof held === 'string');
  // A role of any kind asks whether something is there: a null is, and the inside of a group does not matter.
  if (role.spec.accepts === 'any') return isNested ? true : held;
  if (isNested) return isWhole(step, frame) ? (isSound(step, frame) ? valueIn(step, frame) : UNSOUND) : UNSTORED;
  return held ?? undefined;
}

/** All entries below a list; unsound when one of them is, absent when one lacks what a role needs. */
function readEntries(role: RolePlan, frames: readonly Frame[]): unknown {
  const { lists, roles } = role.entry as NonNullable<RolePlan['entry']>;
  let level: readonly Frame[] = [frames[role.depth] as Frame];
  for (const list of lists) {
    const next: Frame[] = [];
    for (const frame of level) {
      const entries = frame[list.slot];
      if (entries === UNSOUND) return UNSOUND;
      if (Array.isArray(entries)) for (const entry of entries) next.push(entry as Frame);
      else if (list === lists[0]) return undefined;
    }
    level = next;
  }
  const entries: Reads[] = [];
  for (const frame of level) {
    const entry: { [role: string]: unknown } = {};
    for (const inner of roles) {
      const value = readRole(inner, frame);
      if (value === UNSOUND) return UNSOUND;
      if (value === undefined && !inner.spec.maybe) return undefined;
      entry[inner.name] = value;
    }
    entries.push(entry);
  }
  return entries;
}

/** The place of a role, in the entries that it is read from. */
export function spotOf(role: RolePlan, indexes: readonly EntryKey[]): Spot {
  return { place: role.place, indexes: indexes.slice(0, role.depth) };
}
