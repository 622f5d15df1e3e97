import type { Calls, CaseState, KeptCase, ModuleState, Told } from '../wire.ts';

// What the page asks of its server.

/** What the server answers, or a sentence about why there is no answer. */
async function told<T>(path: string, init: RequestInit = {}): Promise<Told<T>> {
  try {
    const response = await fetch(path, { ...init, headers: init.body ? { 'content-type': 'application/json' } : {} });
    return (await response.json()) as Told<T>;
  } catch (cause) {
    if ((cause as Error).name === 'AbortError') throw cause;
    return { problem: 'The workbench does not answer; is `jestril serve` still running?' };
  }
}

export function ask<N extends keyof Calls>(
  name: N,
  argument: Omit<Parameters<Calls[N]>[0], 'origin'>,
  { version, signal }: { readonly version?: string; readonly signal?: AbortSignal } = {},
): Promise<Told<ReturnType<Calls[N]>>> {
  const body = JSON.stringify(version ? { ...argument, version } : argument);
  return told(`api/call/${name}`, { method: 'POST', body, ...(signal && { signal }) });
}

export const moduleState = () => told<ModuleState>('api/module');

export type KeptCases = { readonly cases: readonly KeptCase[]; readonly states: readonly CaseState[] };
export const keptCases = () => told<KeptCases>('api/cases');
export const keepCases = (cases: readonly KeptCase[]) =>
  told<{ readonly proof: string }>('api/cases', { method: 'PUT', body: JSON.stringify(cases) });

/** Calls `loaded` whenever the module was loaded again; gives what ends that. */
export function onLoaded(loaded: () => void): () => void {
  const events = new EventSource('api/events');
  events.addEventListener('loaded', loaded);
  // After a break the server may have loaded it meanwhile.
  events.addEventListener('open', loaded);
  return () => events.close();
}

export function isProblem<T>(answer: Told<T>): answer is { readonly problem: string } {
  return typeof answer === 'object' && answer !== null && 'problem' in answer && Object.keys(answer).length === 1;
}
