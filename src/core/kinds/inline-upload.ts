import { isStorable } from '../text.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, type Read, UNREADABLE } from './kind.ts';
import { readUpload, receivedFile, type Upload } from './upload.ts';

const spec: KindSpec<Upload> = {
  name: 'inline-upload',
  is: ['inline-upload', 'upload'],
  says: { en: '{field} must be a file, as an object with name, mediaType and base64.' },
  json: readInline,
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
  isObject: true,
};

const BASE64 = /^[A-Za-z0-9+/]*={0,2}$/;

function readInline(raw: unknown): Read<Upload> {
  try {
    const { name, mediaType, base64, ...others } = raw as { readonly [name: string]: unknown };
    if (typeof name !== 'string' || !isStorable(name) || typeof base64 !== 'string' || Object.keys(others).length > 0) return UNREADABLE;
    if (base64.length % 4 !== 0 || !BASE64.test(base64)) return UNREADABLE;
    const content = Uint8Array.from(atob(base64), (byte) => byte.charCodeAt(0));
    const file = receivedFile({ name, mediaType: String(mediaType ?? ''), size: content.length, content });
    return readUpload(file);
  } catch {
    return UNREADABLE;
  }
}

export interface InlineUploadKind extends Kind<'inline-upload', Upload> {
  (label: string, ...steps: Step<'upload'>[]): Field<'inline-upload' | 'upload', Upload>;
}

/**
 * A file that stands in JSON: `{ "name": "plan.pdf", "mediaType": "application/pdf", "base64": "…" }` (RFC 4648, 4). The value is an
 * `Upload` with its bytes.
 */
export const inlineUpload = asKind(spec, (label: string, ...steps: Step<'upload'>[]) =>
  makeField(spec, label, steps),
) as unknown as InlineUploadKind;
