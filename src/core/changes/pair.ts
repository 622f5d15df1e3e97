import type { Pairing } from '../steps/changing.ts';
import { changeOf } from './steps.ts';

/** Pairs the entries of the lists and tables in a field with those that they were before. */
export const pairEntries: Pairing = (amending, step, frame, before) => changeOf(step).pair(amending, step, frame, before, pairEntries);
