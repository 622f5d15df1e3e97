import { filetypeinfo } from 'magic-bytes.js';
import { fault } from '../core/basics/fault.ts';
import type { ValueRule, ValueUse } from '../core/declared/rule.ts';
import { isMediaType, MEDIA_RANGE } from '../core/kinds/media-type.ts';
import type { Upload } from '../core/kinds/upload.ts';
import { valueRule } from '../core/rules/value-rule.ts';
import { hasMarkup, hasStructure } from './structure.ts';

const sniffed = valueRule('file-content', ['upload'], {
  check(upload: Upload, { types }: { types: readonly string[] }) {
    const bytes = bytesOf(upload);
    return filetypeinfo(bytes.subarray(0, HEAD)).some(({ mime }) => {
      if (mime === undefined || !types.some((type) => isMediaType(type, mime))) return false;
      // Whatever is to be looked at or listened to holds no page.
      return (
        hasStructure(mime, bytes, upload.size) &&
        (!/^(?:image|audio|video|font)\//.test(mime) || mime.endsWith('+xml') || !hasMarkup(bytes))
      );
    });
  },
  facts: (takes) => takes,
  factNames: ['types'],
  refuses({ types }) {
    if (types.length === 0) fault('fileContent needs at least one media type.');
    for (const type of types)
      if (!MEDIA_RANGE.test(type)) fault(`fileContent: "${type}" is no media type in lower case, such as image/* or application/pdf.`);
  },
  message: {
    en: '{field} must hold what a file of type {types} holds.',
  },
});

/**
 * A file whose bytes are those of one of these media types: `application/pdf`, `image/png`, `image/jpeg`, `image/webp`, `application/zip`, …
 * (by magic-bytes.js, which the application installs). Unlike `mediaTypes` it does not believe what the sender says. `image/*` is all
 * images but those that run scripts: `image/svg+xml` is asked for by its name. The usual images are looked at beyond their first bytes, and
 * nothing passes for one that holds a page. Where nobody has looked at the bytes, as with a `File` in a browser, it cannot be decided.
 */
export const fileContent = (types: readonly string[], use?: ValueUse): ValueRule<'upload'> => sniffed({ types }, use);

/** Bytes that tell what a file is. */
const HEAD = 4100;

/** All bytes where they are there, else the first. */
function bytesOf({ head, content }: Upload): Uint8Array {
  if (ArrayBuffer.isView(content)) return new Uint8Array(content.buffer, content.byteOffset, content.byteLength);
  return head ?? unseen();
}

function unseen(): never {
  throw new TypeError('Nobody has looked at the first bytes of the file; give them as its head.');
}
