import { optionsOf } from '../basics/known.ts';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import { A_REMARK, valueRule } from './value-rule.ts';

const STANDARD = /^[A-Za-z0-9+/]*={0,2}$/;
const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';
const URL_SAFE = /^[A-Za-z0-9_-]*={0,2}$/;

const encoded = valueRule('base64', ['text'], {
  examples: () => ['YWhveQ=='],
  schema: ({ urlSafe }) => (urlSafe ? undefined : { schema: { contentEncoding: 'base64' }, leavesOut: A_REMARK }),
  check(value: string, { urlSafe }: { urlSafe: boolean }) {
    if (!(urlSafe ? URL_SAFE : STANDARD).test(value)) return false;
    const padding = value.endsWith('==') ? 2 : value.endsWith('=') ? 1 : 0;
    const rest = (value.length - padding) % 4;
    // One character alone carries six bits, which are no byte. The alphabet for URLs may leave its padding out.
    if (rest === 1 || !(padding === 0 ? rest === 0 || urlSafe : value.length % 4 === 0)) return false;
    // Bits that carry nothing are zero (RFC 4648, 3.5): else two texts would mean the same bytes.
    const last = ALPHABET.indexOf((value[value.length - padding - 1] ?? 'A').replace('-', '+').replace('_', '/'));
    return rest === 2 ? (last & 15) === 0 : rest === 3 ? (last & 3) === 0 : true;
  },
  message: { en: '{field} must be text in base64.' },
});

/**
 * Base64 (RFC 4648, section 4), padded; with `urlSafe` that of section 5, whose padding may be left out.
 *
 * @law Text in base64 (RFC 4648).
 * @option urlSafe | the alphabet for URLs; its padding may be left out | false
 * @example text('Token', base64())
 * @holds 'YWhveQ=='
 * @fails 'YWhveQ'
 */
export const base64 = (options: { readonly urlSafe?: boolean } = {}, use?: ValueUse): TextRule =>
  encoded({ urlSafe: optionsOf('base64', options, ['urlSafe']).urlSafe ?? false }, use);

const json = valueRule('json-text', ['text'], {
  examples: () => ['{"a":1}'],
  schema: () => ({ schema: { contentMediaType: 'application/json' }, leavesOut: A_REMARK }),
  check(value: string) {
    try {
      JSON.parse(value);
      return true;
    } catch {
      return false;
    }
  },
  message: { en: '{field} must be JSON text.' },
});

/**
 * Text that is JSON (RFC 8259).
 *
 * @example text('Settings', jsonText())
 * @holds '{"a":1}'
 * @fails '{a:1}'
 */
export const jsonText = (use?: ValueUse): TextRule => json({}, use);
