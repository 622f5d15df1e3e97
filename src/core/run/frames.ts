import type { Frame } from '../plan/plan.ts';

/** Empty frames to copy, by size: a copy takes no more room than it needs, and one that grows does. */
const emptyFrames: Frame[] = [];

export function newFrame(size: number): Frame {
  let empty = emptyFrames[size];
  if (!empty) {
    empty = [];
    for (let slot = 0; slot < size; slot++) empty.push(undefined);
    emptyFrames[size] = empty;
  }
  return empty.slice();
}
