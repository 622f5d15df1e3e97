import { wordIn } from '../../core/messages/catalogue.ts';
import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import type { SentenceId } from '../../core/messages/catalogues/language.ts';
import { textIn } from '../../core/messages/render.ts';
import type { ShownFinding } from './finding.ts';

interface SentProblem {
  readonly title?: unknown;
  readonly findings?: unknown;
}

async function problemIn(response: Response): Promise<SentProblem | undefined> {
  if (response.ok || !(response.headers.get('content-type') ?? '').includes('json')) return undefined;
  const problem: unknown = await response
    .clone()
    .json()
    .catch(() => undefined);
  return typeof problem === 'object' && problem !== null ? problem : undefined;
}

/** The findings of an answer that has some; the answer can still be read. */
export async function findingsIn(response: Response): Promise<readonly ShownFinding[] | undefined> {
  const findings = (await problemIn(response))?.findings;
  return Array.isArray(findings) && findings.every(isFinding) ? findings : undefined;
}

/** Whoever answers may be something else than the door behind the form. */
function isFinding(value: unknown): value is ShownFinding {
  const { rule, at, message } = (value ?? {}) as { readonly [member: string]: unknown };
  return typeof rule === 'string' && typeof message === 'string' && Array.isArray(at) && at.every((each) => typeof each === 'string');
}

/** What to say of an answer that is neither done nor a list of findings: the server's own words, or ours for its status. */
export async function troubleIn(response: Response, locale: string, catalogues: readonly Catalogue[]): Promise<string | undefined> {
  if (response.ok || response.type === 'opaqueredirect') return undefined;
  const title = (await problemIn(response))?.title;
  if (typeof title === 'string' && title !== '') return title;
  const said = SAID[response.status] ?? (response.status >= 500 ? BROKEN : REFUSED);
  return sentenceIn(said, locale, catalogues);
}

/** A sentence of the page, in English, and where the catalogues have it. */
export interface Said {
  readonly id: SentenceId;
  readonly en: string;
}

export const sentenceIn = ({ id, en }: Said, locale: string, catalogues: readonly Catalogue[]): string =>
  textIn(wordIn(catalogues, id, en), locale);

const SAID: { readonly [status: number]: Said } = {
  401: { id: 'page/signed-out', en: 'Please sign in again, then send this once more.' },
  403: { id: 'problem/not-allowed', en: 'You may not do this.' },
  413: { id: 'page/too-large', en: 'This is too large to be sent; a smaller file may do.' },
  429: { id: 'page/too-often', en: 'That was too often. Please wait a moment.' },
};
const BROKEN: Said = { id: 'page/broken', en: 'Something went wrong. Nothing is lost; please send it again in a moment.' };
export const REFUSED: Said = { id: 'page/refused', en: 'This was not accepted.' };

export const UNREACHABLE: Said = {
  id: 'page/unreachable',
  en: 'The server cannot be reached. Nothing is lost; please send it again in a moment.',
};
export const SENT: Said = { id: 'page/sent', en: 'This has been sent already. To send it again, change something first.' };
export const SLOW: Said = { id: 'page/slow', en: 'The server has not answered yet. Nothing is lost; please wait a little longer.' };
