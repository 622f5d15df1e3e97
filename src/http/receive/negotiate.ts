import Negotiator from 'negotiator';
import { planOf } from '../../core/intake.ts';
import { localeFor } from '../locale.ts';
import type { AnyIntake } from './options.ts';

/** Whether a page is wanted rather than JSON (RFC 9110, 12.5.1). */
export function wantsPage(accept: string | undefined): boolean {
  if (!accept || accept.length > 1000) return false;
  const best = new Negotiator({ headers: { accept } }).mediaType(['application/problem+json', 'application/json', 'text/html']);
  return best === 'text/html';
}

/** English, then the languages of the intakes' catalogues and texts. */
export function languagesOf(intakes: readonly AnyIntake[]): readonly [string, ...string[]] {
  return ['en', ...new Set(intakes.flatMap((intake) => planOf(intake).catalogues.map(({ locale }) => locale)))];
}

export function localeOf(header: string | undefined, languages: readonly [string, ...string[]]): string {
  return localeFor(header, languages);
}
