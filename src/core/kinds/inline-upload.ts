import { isBaseName } from '../basics/file-name.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';
import { readUpload, receivedFile, type Upload } from './upload.ts';

const spec: KindSpec<Upload> = {
  name: 'inline-upload',
  examples: () => [{ name: 'file.pdf', mediaType: 'application/pdf', base64: 'JVBERi0=' }],
  schema: {
    schema: {
      type: 'object',
      required: ['name', 'base64'],
      properties: {
        name: { type: 'string', minLength: 1 },
        mediaType: { type: 'string' },
        base64: { type: 'string', contentEncoding: 'base64', pattern: '^[A-Za-z0-9+/]*={0,2}$' },
      },
      additionalProperties: false,
    },
    leavesOut: 'that the length fits, and the form of the media type',
  },
  is: ['inline-upload', 'upload'],
  says: { en: '{field} must be a file, as an object with name, mediaType and base64.' },
  json: readInline,
  value: readUpload,
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
  isObject: true,
};

const MEMBERS: ReadonlySet<string> = new Set(['name', 'mediaType', 'base64']);
const BASE64 = /^[A-Za-z0-9+/]*={0,2}$/;

function readInline(raw: unknown): Read<Upload> {
  try {
    // A text or a list of millions has as many names: its shape is looked at first.
    if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) return UNREADABLE;
    for (const member in raw) if (!MEMBERS.has(member)) return UNREADABLE;
    const { name, mediaType, base64 } = raw as { readonly [name: string]: unknown };
    if (typeof name !== 'string' || !isBaseName(name) || typeof base64 !== 'string') return UNREADABLE;
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
 *
 * @law A file that stands in JSON, in base64 (RFC 4648): `name`, `mediaType` and `base64`. Its value is an `Upload`, and the rules about files fit it.
 * @example inlineUpload('Certificate')
 * @holds { name: 'a.pdf', mediaType: 'application/pdf', base64: 'JVBERi0=' }
 * @fails { name: 'a.pdf', mediaType: 'application/pdf', base64: 'JVBERi0' }
 */
export const inlineUpload = kindBy<InlineUploadKind>(spec);

export const inlineUploadTold: ToldKind = {
  spec,
  make: inlineUpload,
  made: 'inlineUpload',
  called: 'file in JSON',
  typeScript: '{ name: string; mediaType?: string; base64: string }',
  shownAs: 'json',
};
