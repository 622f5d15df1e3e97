import type { Reads } from '../declared/rule.ts';
import type { Run } from '../run/run.ts';
import { Claims } from './claims.ts';
import { RecordRules } from './record-rules.ts';

/** Leaves open what records would have to settle, where nobody is asked; entries of one list are compared with each other all the same. */
export function leaveRecordsOpen(run: Run, itself: Reads | undefined, cause: unknown): void {
  new RecordRules(run, run.plan.record, itself, { claims: new Claims(run.plan) }).leaveOpen('not-asked', cause);
}
