import { filetypeinfo } from 'magic-bytes.js';
import { fault } from '../core/basics/fault.ts';
import type { ValueRule, ValueUse } from '../core/declared/rule.ts';
import type { Upload } from '../core/kinds/upload.ts';
import { valueRule } from '../core/rules/value-rule.ts';

const sniffed = valueRule('file-content', ['upload'], {
  check(upload: Upload, { types }: { types: readonly string[] }) {
    const found = filetypeinfo(firstBytes(upload)).map(({ mime }) => mime);
    return types.some((type) => found.some((mime) => (type.endsWith('/*') ? mime?.startsWith(type.slice(0, -1)) : mime === type)));
  },
  facts: (takes) => takes,
  factNames: ['types'],
  refuses({ types }) {
    if (types.length === 0) fault('fileContent needs at least one media type.');
    for (const type of types)
      if (!/^[a-z0-9.+-]+\/(\*|[a-z0-9.+-]+)$/.test(type))
        fault(`fileContent: "${type}" is no media type in lower case, such as image/* or application/pdf.`);
  },
  message: {
    en: '{field} must hold what a file of type {types} holds.',
  },
});

/**
 * A file whose first bytes are those of one of these media types: `application/pdf`, `image/png`, `image/*`, `application/zip`, …
 * (by magic-bytes.js, which the application installs). Unlike `mediaTypes` it does not believe what the sender says. Where nobody has
 * looked at the bytes, as with a `File` in a browser, it cannot be decided.
 */
export const fileContent = (types: readonly string[], use?: ValueUse): ValueRule<'upload'> => sniffed({ types }, use);

function firstBytes({ head, content }: Upload): Uint8Array {
  if (head) return head;
  if (!ArrayBuffer.isView(content)) throw new TypeError('Nobody has looked at the first bytes of the file; give them as its head.');
  return new Uint8Array(content.buffer, content.byteOffset, Math.min(content.byteLength, 4100));
}
