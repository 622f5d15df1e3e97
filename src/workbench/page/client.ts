import type { ModuleState, Told } from '../wire/asked.ts';
import type { Calls } from '../wire/calls.ts';
import type { CaseChange, CaseRead, CaseState, CasesChanged } from '../wire/cases.ts';
import type { Alike, AlikeAsked, Import, ImportedRow } from '../wire/imports.ts';
import type { Pasted } from '../wire/requests.ts';

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

const sent = <T>(path: string, body: object, signal?: AbortSignal) =>
  told<T>(path, { method: 'POST', body: JSON.stringify(body), ...(signal && { signal }) });

export function ask<N extends keyof Calls>(
  name: N,
  argument: Omit<Parameters<Calls[N]>[0], 'doors'>,
  { version, signal }: { readonly version?: string; readonly signal?: AbortSignal } = {},
): Promise<Told<ReturnType<Calls[N]>>> {
  return sent(`api/call/${name}`, version ? { ...argument, version } : argument, signal);
}

export const pastedRequest = (text: string) => sent<Pasted>('api/pasted', { text });

export const openImport = (path: string) => sent<Import>('api/import/open', { path });
export const importedRow = (asked: { readonly path: string; readonly row: number; readonly intake: string }) =>
  sent<ImportedRow>('api/import/row', asked);
export const importAlike = (asked: AlikeAsked) => sent<Alike>('api/import/alike', asked);

export const moduleState = () => told<ModuleState>('api/module');

export type KeptCases = { readonly cases: readonly CaseRead[]; readonly states: readonly CaseState[] };
export const keptCases = () => told<KeptCases>('api/cases');
export const changeCases = (changes: readonly CaseChange[]) => sent<CasesChanged>('api/cases', { changes });

export function isProblem<T>(answer: Told<T>): answer is { readonly problem: string } {
  return typeof answer === 'object' && answer !== null && 'problem' in answer && Object.keys(answer).length === 1;
}
