import type { ShownFinding } from './showing.ts';

/** The findings of an answer that has some; the answer can still be read. */
export async function findingsIn(response: Response): Promise<readonly ShownFinding[] | undefined> {
  if (response.ok || !(response.headers.get('content-type') ?? '').includes('json')) return undefined;
  const problem = (await response
    .clone()
    .json()
    .catch(() => undefined)) as { readonly findings?: readonly ShownFinding[] } | undefined;
  return problem?.findings;
}
