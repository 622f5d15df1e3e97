import { useEffect, useState } from 'react';
import type { ModuleState } from '../wire/asked.ts';
import { isProblem, moduleState } from './client.ts';

/** Milliseconds between two looks. A page that is not seen does not look: however many are open, none holds a connection. */
const PAUSE = 600;

export interface SeenModule {
  /** What was known of it last, while it is loaded again or does not load. */
  readonly module: ModuleState | undefined;
  readonly problem: string | undefined;
  readonly isLoading: boolean;
}

/** The module as it is loaded now, seen again and again. */
export function useModule(): SeenModule {
  const [seen, setSeen] = useState<SeenModule>({ module: undefined, problem: undefined, isLoading: true });
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let isOver = false;
    const look = async () => {
      clearTimeout(timer);
      if (document.hidden) return;
      const told = await moduleState();
      if (isOver) return;
      setSeen((last) => next(last, told));
      clearTimeout(timer);
      timer = setTimeout(look, PAUSE);
    };
    const again = () => void look();
    document.addEventListener('visibilitychange', again);
    again();
    return () => {
      isOver = true;
      clearTimeout(timer);
      document.removeEventListener('visibilitychange', again);
    };
  }, []);
  return seen;
}

function next(last: SeenModule, told: Awaited<ReturnType<typeof moduleState>>): SeenModule {
  if (isProblem(told)) return { ...last, problem: told.problem, isLoading: false };
  const { module } = last;
  const isNew = !told.isLoading && told.problem === undefined;
  // What is described, and judged by, is that of the load before until the new one is there.
  const kept = module && !isNew ? { ...told, intakes: module.intakes, loads: module.loads, hasRecords: module.hasRecords } : told;
  const now = { module: kept, problem: told.problem, isLoading: told.isLoading };
  return JSON.stringify(now) === JSON.stringify(last) ? last : now;
}
