import type { Texts } from '../core/basics/text.ts';
import { textIn } from '../core/messages/render.ts';
import type { ShownFinding } from './showing.ts';

interface SentProblem {
  readonly title?: unknown;
  readonly findings?: readonly ShownFinding[];
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
  return (await problemIn(response))?.findings;
}

/** What to say of an answer that is neither done nor a list of findings: the server's own words, or ours for its status. */
export async function troubleIn(response: Response, locale: string): Promise<string | undefined> {
  if (response.ok || response.type === 'opaqueredirect') return undefined;
  const title = (await problemIn(response))?.title;
  if (typeof title === 'string' && title !== '') return title;
  return textIn(SAID[response.status] ?? (response.status >= 500 ? BROKEN : REFUSED), locale);
}

const SAID: { readonly [status: number]: Texts } = {
  401: {
    en: 'Please sign in again, then send this once more.',
    de: 'Bitte wieder anmelden und noch einmal senden.',
    pl: 'Proszę zalogować się ponownie i wysłać jeszcze raz.',
  },
  403: { en: 'You may not do this.', de: 'Das ist Ihnen nicht erlaubt.', pl: 'Brak uprawnień do tej czynności.' },
  413: {
    en: 'This is too large to be sent; a smaller file may do.',
    de: 'Das ist zu groß zum Senden; vielleicht geht eine kleinere Datei.',
    pl: 'To jest za duże, aby je wysłać; może wystarczy mniejszy plik.',
  },
  429: {
    en: 'That was too often. Please wait a moment.',
    de: 'Das war zu oft. Bitte einen Moment warten.',
    pl: 'To było zbyt często. Proszę chwilę poczekać.',
  },
};
const BROKEN: Texts = {
  en: 'Something went wrong. Nothing is lost; please send it again in a moment.',
  de: 'Etwas ist schiefgegangen. Nichts ist verloren; bitte gleich noch einmal senden.',
  pl: 'Coś poszło nie tak. Nic nie zginęło; proszę wysłać ponownie za chwilę.',
};
const REFUSED: Texts = { en: 'This was not accepted.', de: 'Das wurde nicht angenommen.', pl: 'To nie zostało przyjęte.' };
