import { isBlank } from '../basics/text.ts';
import { Thrown } from '../declared/given-back.ts';
import { UNREADABLE } from '../declared/kind.ts';
import { judgeUse, NO_INDEXES, settle } from '../loop/cases.ts';
import { PRESENT, UNSOUND } from '../plan/plan.ts';
import { NOTHING_FOUND } from '../run/case.ts';
import { BROKEN, isObject } from '../run/raw.ts';
import { refuseStrangers } from '../run/strangers.ts';
import { unsound } from '../run/unsound.ts';
import { valueIn } from '../run/value.ts';
import { isHeld, judgeValue } from '../run/value-checks.ts';
import { readMissing, readValue } from '../steps/reading.ts';
import { faultOfKind, unreadable } from '../steps/scalar.ts';

/** What generated code calls. */
export const HELPERS = {
  UNREADABLE,
  UNSOUND,
  PRESENT,
  BROKEN,
  NOTHING: NOTHING_FOUND.found,
  NO_INDEXES,
  Thrown,
  isBlank,
  isObject,
  isHeld,
  faultOfKind,
  judgeUse,
  judgeValue,
  readMissing,
  readValue,
  refuseStrangers,
  settle,
  unreadable,
  unsound,
  valueIn,
};
