import { eachCase, skip } from '../loop/cases.ts';
import type { Case } from '../run/case.ts';
import type { Run } from '../run/run.ts';

/** The cases of the outside checks that need no records; none once something failed. */
export function casesOutside(run: Run): Case[] {
  const cases: Case[] = [];
  for (const use of run.plan.outside) {
    eachCase(run, use, (item) => {
      if (run.hasErrors) skip(run, item, 'already-failed');
      else cases.push(item);
    });
  }
  return cases;
}
