import type { Asked, Settings } from './asked.ts';
import type { Came, CaseState, KeptCase, KeptSample } from './cases.ts';
import type { Row, RowPlace } from './imports.ts';
import type { Judgement, PatternAsked, PatternTold, Turning } from './judged.ts';
import type { DoorAsked, DoorTold, HttpAnswer } from './requests.ts';
import type { ShownIntake } from './shown.ts';

/**
 * The calls that the process with the module answers; `doors` is where the doors before intakes are, `address` where
 * requests that are copied are to go instead.
 */
export interface Calls {
  /** `now` is the moment that examples are made for. */
  describe(asked: { readonly intake: string; readonly locale: string; readonly now?: string }): ShownIntake;
  judge(asked: Asked): Judgement;
  answers(asked: Asked & { readonly doors: string; readonly address?: string }): readonly HttpAnswer[];
  door(asked: DoorAsked): DoorTold;
  turn(asked: Asked & { readonly pointer: string }): Turning;
  pattern(asked: PatternAsked): PatternTold;
  cases(kept: { readonly cases: readonly KeptCase[] }): readonly CaseState[];
  rows(asked: { readonly intake: string; readonly path: string; readonly wanted: readonly RowPlace[] }): readonly Row[];
  alike(asked: { readonly intake: string; readonly submissions: readonly unknown[]; readonly settings: Settings }): readonly Came[];
  sample(asked: Asked & { readonly use: string; readonly entry?: string }): KeptSample;
}
