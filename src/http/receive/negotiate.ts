import Negotiator from 'negotiator';
import { planOf } from '../../core/intake.ts';
import type { Catalogue } from '../../core/messages/catalogues/catalogue.ts';
import { localeFor } from './locale.ts';
import type { AnyIntake } from './options.ts';

/** Whether a page is wanted rather than JSON (RFC 9110, 12.5.1). */
export function wantsPage(accept: string | undefined): boolean {
  if (!accept || accept.length > 1000) return false;
  // A parameter of a media type (`text/html;level=1`) narrows what is wanted; there is one page only, and it will do.
  const ranges = accept.split(',').map((range) =>
    range
      .split(';')
      .filter((part, at) => at === 0 || /^\s*q\s*=/i.test(part))
      .join(';'),
  );
  const best = new Negotiator({ headers: { accept: ranges.join() } }).mediaType([
    'application/problem+json',
    'application/json',
    'text/html',
  ]);
  return best === 'text/html';
}

/** English, then the languages of the intakes' catalogues. */
export function languagesOf(intakes: readonly AnyIntake[]): readonly [string, ...string[]] {
  return ['en', ...new Set(cataloguesOf(intakes).map(({ locale }) => locale))];
}

export function cataloguesOf(intakes: readonly AnyIntake[]): readonly Catalogue[] {
  return intakes.flatMap((intake) => planOf(intake).catalogues);
}

/** Browsers send the same few headers again and again. */
const MOST_REMEMBERED = 200;

/** The language of a request, worked out once for each header. */
export class Languages {
  readonly #available: readonly [string, ...string[]];
  readonly #known = new Map<string, string>();

  constructor(available: readonly [string, ...string[]]) {
    this.#available = available;
  }

  of(header: string | undefined): string {
    if (header === undefined) return this.#available[0];
    let locale = this.#known.get(header);
    if (locale === undefined) {
      locale = localeFor(header, this.#available);
      if (this.#known.size < MOST_REMEMBERED) this.#known.set(header, locale);
    }
    return locale;
  }
}
