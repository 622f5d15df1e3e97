import { leavesOf } from './leaves.ts';
import type { FieldStep, FieldSteps, Frame, RolePlan, UsePlan } from './plan.ts';
import { walkSteps } from './walk.ts';

/** What an amendment changes, so that only rules that read some of it run. */
export class Amending {
  readonly #slots = new Map<Frame, Set<number>>();
  /** Entries that are new as a whole. */
  readonly #entries = new Set<Frame>();
  /** What the application supplies is supplied anew with every change. */
  readonly #given: ReadonlySet<string>;
  /** The declared paths that have changed, in the order of the fields. */
  readonly paths: string[] = [];

  constructor(given: FieldSteps) {
    const paths = new Set<string>();
    walkSteps(given, ({ place }) => paths.add(place.path));
    this.#given = paths;
  }

  note(frame: Frame, step: FieldStep): void {
    const slots = this.#slots.get(frame) ?? new Set();
    this.#slots.set(frame, slots);
    slots.add(step.slot);
  }

  /** Notes a field and everything inside it that stands in the same frame. */
  noteAll(frame: Frame, step: FieldStep): void {
    this.note(frame, step);
    if (step.op === 'group') for (const inner of step.inner.steps) this.noteAll(frame, inner);
    if (step.op === 'shapes') for (const { steps } of step.shapes.values()) for (const inner of steps) this.noteAll(frame, inner);
  }

  noteEntry(frame: Frame): void {
    this.#entries.add(frame);
  }

  /**
   * Whether a use reads something that has changed, or its condition does. A rule about the caller always has to hold; a
   * condition on the caller does not bring up what nobody touches.
   */
  touches(use: UsePlan, frames: readonly Frame[]): boolean {
    return (
      use.roles.some((role) => this.#given.has(role.place.path)) ||
      [...use.roles, ...use.when.flatMap(leavesOf).flatMap(({ roles }) => roles)].some((role) => this.#isChanged(role, frames))
    );
  }

  #isChanged({ depth, entry, step }: RolePlan, frames: readonly Frame[]): boolean {
    const frame = frames[depth];
    if (!frame) return false;
    return this.#entries.has(frame) || (this.#slots.get(frame)?.has((entry?.lists[0] ?? step).slot) ?? false);
  }
}
