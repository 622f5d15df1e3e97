import Negotiator from 'negotiator';

/**
 * The best of the languages available for an `Accept-Language` header (RFC 9110, 12.5.4).
 *
 * @param header may be absent
 * @param available BCP 47 tags, the preferred one first; it is also the answer when nothing fits
 */
export function localeFor(header: string | null | undefined, available: readonly [string, ...string[]]): string {
  // A header longer than any browser sends is not worth taking apart.
  if (!header || header.length > 1000) return available[0];
  return new Negotiator({ headers: { 'accept-language': header } }).language([...available]) ?? available[0];
}
