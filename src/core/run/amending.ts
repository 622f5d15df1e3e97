import { leavesOf } from '../plan/leaves.ts';
import {
  type FieldStep,
  type FieldSteps,
  type Frame,
  type Holder,
  PRESENT,
  type RolePlan,
  UNSOUND,
  Unstored,
  type UsePlan,
} from '../plan/plan.ts';
import { entriesBelow } from './entries.ts';
import { isSameIn } from './value.ts';

/**
 * The stored record beside what a change makes of it: a rule that reads nothing but what is the same in both is excused.
 * Every frame is compared with the one that it comes from; an entry that comes from none is new.
 */
export class Amending {
  readonly #before = new Map<Frame, Frame>();

  pair(frame: Frame, before: Frame): void {
    this.#before.set(frame, before);
  }

  /** The frame of the stored record that a frame comes from. */
  before(frame: Frame): Frame | undefined {
    return this.#before.get(frame);
  }

  /** Whether a use reads nothing that has changed, so that whatever it finds was there before. */
  isExcused({ namesOccasion, roles, when }: UsePlan, frames: readonly Frame[]): boolean {
    if (namesOccasion) return false;
    // What the application supplies is supplied anew: a rule about the caller always has to hold. A condition on the caller
    // does not bring up what nobody touches.
    return (
      roles.every((role) => !role.isGiven && this.isSame(role, frames)) &&
      when.every((condition) => leavesOf(condition).every(({ roles }) => roles.every((role) => role.isGiven || this.isSame(role, frames))))
    );
  }

  /** Whether a role reads the same as it would of the stored record. */
  isSame(role: RolePlan, frames: readonly Frame[]): boolean {
    if (role.isStored) return true;
    const frame = frames[role.depth];
    // A role of entries around which nobody stands: all of them together.
    if (!frame) {
      const root = frames[0] as Frame;
      const before = this.#before.get(root);
      return (
        before !== undefined && isHeldAlike(role.outerHolders, root, before) && this.#areSame({ lists: role.lists, roles: [role] }, root)
      );
    }
    const before = this.#before.get(frame);
    if (!before || !isHeldAlike(role.holders, frame, before)) return false;
    return role.entry ? this.#areSame(role.entry, frame) : isSameIn(role.step, frame, before);
  }

  #areSame({ lists, roles }: Pick<NonNullable<RolePlan['entry']>, 'lists' | 'roles'>, frame: Frame): boolean {
    const now = entriesBelow(lists, frame);
    const then = entriesBelow(lists, this.#before.get(frame) as Frame);
    if (!Array.isArray(now) || !Array.isArray(then)) return now === then && now !== UNSOUND;
    return (
      now.length === then.length &&
      now.every((entry, index) =>
        roles.every(({ holders, step }) => {
          const was = then[index] as Frame;
          return isHeldAlike(holders, entry, was) && isSameIn(step, entry, was);
        }),
      )
    );
  }
}

/** Whether what a field stands in is there in both, or in neither: another shape is not there. What was not loaded counts as what it is now. */
function isHeldAlike(holders: readonly Holder[], frame: Frame, before: Frame): boolean {
  return holders.every(({ step: { slot }, shape = PRESENT }) => {
    const [held, was] = [frame[slot], before[slot]];
    return was instanceof Unstored || (held !== UNSOUND && (held === shape) === (was === shape));
  });
}

/** The declared paths of what is not the same; of a list, a table or shapes their own. */
export function changedPaths(fields: FieldSteps, frame: Frame, before: Frame): string[] {
  return fields.steps.flatMap((step) => (step.isLeftOut || isSameIn(step, frame, before) ? [] : pathsOf(step, frame, before)));
}

function pathsOf(step: FieldStep, frame: Frame, before: Frame): string[] {
  if (!step.sort.isOpen) return [step.place.path];
  const inside = step.inside
    .flatMap(({ steps }) => steps)
    .flatMap((inner) => (inner.isLeftOut || isSameIn(inner, frame, before) ? [] : pathsOf(inner, frame, before)));
  return inside.length > 0 ? inside : [step.place.path];
}

/** Of the fields inside: what they were compared with, where their holder was there before. */
export function beforeInside(step: FieldStep, frame: Frame, before: Frame | undefined): Frame | undefined {
  if (!before) return undefined;
  const [held, was] = [frame[step.slot], before[step.slot]];
  return was === held || (step.sort.isOpen && held === PRESENT && was instanceof Unstored) ? before : undefined;
}
