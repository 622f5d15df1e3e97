// What differs between two versions of an intake.
export { type Change, compareIntakes, type Difference, type Shown } from './compare.ts';
