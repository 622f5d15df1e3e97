import { useCallback, useEffect, useRef, useState } from 'react';
import type { CaseChange, KeptCase } from '../wire/cases.ts';
import { changeCases, isProblem, type KeptCases, keptCases } from './client.ts';

/** A change that was not made, since somebody else has changed the same case, and the case as it was before either. */
export interface Conflict {
  readonly change: CaseChange;
  readonly before: KeptCase | undefined;
}

export interface Cases {
  readonly kept: KeptCases | undefined;
  readonly problem: string | undefined;
  readonly conflicts: readonly Conflict[];
  read(): Promise<void>;
  change(changes: readonly CaseChange[]): Promise<void>;
  /** Makes one of the conflicting changes all the same, or gives it up. */
  settle(conflict: Conflict, isMade: boolean): Promise<void>;
  tell(problem: string): void;
}

/**
 * The kept cases, read again when the module is another or their file is.
 *
 * @param of another value for each module and file that is seen
 */
export function useCases(of: string): Cases {
  const [kept, setKept] = useState<KeptCases>();
  const [problem, tell] = useState<string>();
  // Of the last change; reading again does not mend it.
  const [proofProblem, setProofProblem] = useState<string>();
  const [conflicts, setConflicts] = useState<readonly Conflict[]>([]);
  const reads = useRef(0);
  const read = useCallback(async () => {
    reads.current += 1;
    const mine = reads.current;
    const told = await keptCases();
    // An answer that comes behind that to a later question tells of what was before.
    if (mine !== reads.current) return;
    tell(isProblem(told) ? told.problem : undefined);
    if (!isProblem(told)) setKept(told);
  }, []);
  useEffect(() => {
    void read();
  }, [of, read]);
  const named = (name: string) => kept?.cases.find((each) => each.kept.name === name);
  const change = async (changes: readonly CaseChange[]) => {
    const told = await changeCases(changes);
    if (isProblem(told)) return tell(told.problem);
    const names = changes.map(({ name }) => name);
    const mine = changes
      .filter(({ name }) => told.conflicts.includes(name))
      .map((each) => ({ change: each, before: named(each.name)?.kept }));
    setConflicts((last) => [...last.filter((each) => !names.includes(each.change.name)), ...mine]);
    setProofProblem(told.proofProblem);
    await read();
  };
  const settle = async (conflict: Conflict, isMade: boolean) => {
    const forget = () => setConflicts((last) => last.filter((each) => each !== conflict));
    const { change: mine, before } = conflict;
    const now = named(mine.name);
    if (!isMade || (!mine.put && !now)) return forget();
    // What was forgotten meanwhile is made anew, whole.
    const put = mine.put && !now ? { ...before, ...mine.put } : mine.put;
    await change([{ ...mine, ...(put && { put }), read: now?.read ?? null }]);
  };
  return { kept, problem: problem ?? proofProblem, conflicts, read, change, settle, tell };
}
