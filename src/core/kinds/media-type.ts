// What runs scripts where a browser opens it: scriptable types and those of JavaScript (WHATWG MIME Sniffing, 4.6).
const ACTIVE =
  /^(?:text\/(?:html|xml|(?:x-)?(?:java|ecma|j|live)script[\d.]*)|application\/(?:pdf|xml|(?:x-)?(?:java|ecma)script)|[^/]+\/[^/]+\+xml)$/;

/** Whether a media type in lower case is the one that is asked for: by its name, or by `image/*`, which means nothing that runs scripts. */
export function isMediaType(asked: string, type: string): boolean {
  return asked === type || (asked.endsWith('/*') && type.startsWith(asked.slice(0, -1)) && !ACTIVE.test(type));
}

/** Media types in lower case, such as `image/png` and `image/*`. */
export const MEDIA_RANGE = /^[a-z0-9.+-]+\/(?:\*|[a-z0-9.+-]+)$/;
