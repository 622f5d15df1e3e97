import { useEffect, useRef, useState } from 'react';
import type { Asked } from '../wire/asked.ts';
import type { Judgement } from '../wire/judged.ts';
import { ask, isProblem } from './client.ts';
import { changedPaths, parsed } from './submission/pointers.ts';

/** Milliseconds after a keystroke before it is judged. */
const PAUSE = 60;

export interface Judging {
  readonly judgement: Judgement | undefined;
  readonly problem: string | undefined;
  /** What is shown is of an earlier text. */
  readonly isStale: boolean;
  /** The fields that the last change touched. */
  readonly changed: ReadonlySet<string>;
}

/** Judges what is asked, again at every change; an answer that comes late is dropped. */
export function useJudgement(asked: Asked | undefined, loads: number): Judging {
  const [judging, setJudging] = useState<Judging>({ judgement: undefined, problem: undefined, isStale: true, changed: new Set() });
  const before = useRef<{ readonly intake: string; readonly value: unknown }>(undefined);
  useEffect(() => {
    if (!asked) return;
    const stop = new AbortController();
    setJudging((last) => ({ ...last, isStale: true }));
    const timer = setTimeout(async () => {
      try {
        const told = await ask('judge', asked, { signal: stop.signal });
        if (stop.signal.aborted) return;
        if (isProblem(told)) return setJudging((last) => ({ ...last, problem: told.problem, isStale: false }));
        const value = parsed(asked.submission)?.value;
        const changed = before.current?.intake === asked.intake ? changedPaths(before.current.value, value) : new Set<string>();
        before.current = { intake: asked.intake, value };
        setJudging((last) => ({ judgement: told, problem: undefined, isStale: false, changed: changed.size > 0 ? changed : last.changed }));
      } catch {
        // The next keystroke has asked again.
      }
    }, PAUSE);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [asked, loads]);
  return judging;
}
