import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import { A_REMARK, valueRule } from './value-rule.ts';

const addressed = valueRule('web-address', ['text'], {
  examples: ({ schemes }) => [`${schemes[0]}://pellwick.example/pier?x=1`],
  check(value: string, { schemes }: { schemes: readonly string[] }) {
    // The parser of the URL standard mends much of what the standard calls an error: white space and control characters,
    // slashes that lean the wrong way, are missing or too many. An address that needs mending is none.
    if (UNFIT.test(value)) return false;
    try {
      const { protocol, hostname } = new URL(value);
      if (!schemes.includes(protocol.slice(0, -1))) return false;
      return !HIERARCHICAL.has(protocol) || (hostname !== '' && WITH_HOST.test(value));
    } catch {
      return false;
    }
  },
  control: () => ({ type: 'url' }),
  facts: ({ schemes }) => ({ schemes }),
  factNames: ['schemes'],
  refuses({ schemes }) {
    if (schemes.length === 0) fault('webAddress needs at least one scheme.');
    for (const scheme of schemes)
      if (!/^[a-z][a-z0-9+.-]*$/.test(scheme))
        fault(`webAddress: "${scheme}" is no scheme; write it in lower case and without its colon, such as https.`);
  },
  message: { en: '{field} must be a web address that starts with {schemes}, such as https://example.org/pier.' },
});
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is refused
const UNFIT = /[\s\u0000-\u001f\u007f-\u009f\\<>"^`{|}]|%(?![0-9A-Fa-f]{2})/u;
const WITH_HOST = /^[A-Za-z][A-Za-z0-9+.-]*:\/\/[^/?#]/;
const HIERARCHICAL = new Set(['http:', 'https:', 'ftp:', 'ws:', 'wss:']);

/**
 * An absolute URL (WHATWG URL) of one of these schemes. Defaults to https and http.
 *
 * @law An absolute URL (WHATWG URL) of one of the schemes.
 * @option schemes | without their colon | `['https', 'http']`
 * @example text('Page', webAddress())
 * @holds 'https://pellwick.example/pier?x=1'
 * @fails 'pellwick.example'
 */
export const webAddress = (options: { readonly schemes?: readonly string[] } = {}, use?: ValueUse): TextRule =>
  addressed({ schemes: optionsOf('webAddress', options, ['schemes']).schemes ?? ['https', 'http'] }, use);

const HOST_LABEL = /^(?!-)[A-Za-z0-9-]{1,63}(?<!-)$/;

const hosted = valueRule('host-name', ['text'], {
  examples: () => ['quay.pellwick.example'],
  check(value: string) {
    if (value.length > 253) return false;
    const labels = value.split('.');
    // A name whose last label is all digits would be read as an address (RFC 1123, 2.1).
    return labels.every((label) => HOST_LABEL.test(label)) && !/^[0-9]+$/.test(labels.at(-1) as string);
  },
  message: { en: '{field} must be a host name, such as quay.example.org.' },
});

/**
 * A host name in ASCII (RFC 1123): labels of 1 to 63 letters, digits and dashes, 253 characters in all.
 *
 * @law A host name in ASCII (RFC 1123).
 * @example text('Host', hostName())
 * @holds 'quay.pellwick.example'
 * @fails 'quay_1'
 */
export const hostName = (use?: ValueUse): TextRule => hosted({}, use);

const IPV4 = /^(?:(?:25[0-5]|2[0-4][0-9]|1[0-9]{2}|[1-9]?[0-9])(?:\.(?!$)|$)){4}$/;

function isIPv6(value: string): boolean {
  if (value.length > 45) return false;
  const halves = value.split('::');
  if (halves.length > 2) return false;
  const groups = halves.flatMap((half) => (half === '' ? [] : half.split(':')));
  let size = groups.length;
  const last = groups.at(-1);
  if (last?.includes('.')) {
    // An IPv4 address may stand for the last two groups.
    if (!IPV4.test(last) || value.endsWith('::')) return false;
    groups.pop();
    size++;
  }
  return groups.every((group) => /^[0-9a-fA-F]{1,4}$/.test(group)) && (halves.length === 2 ? size <= 7 : size === 8);
}

const numbered = valueRule('ip-address', ['text'], {
  examples: ({ versions }) => versions.map((version) => (version === 4 ? '192.0.2.7' : '2001:db8::7')),
  schema: ({ versions }) => (versions.length === 1 ? { schema: { format: `ipv${versions[0]}` }, leavesOut: A_REMARK } : undefined),
  check: (value: string, { versions }: { versions: readonly (4 | 6)[] }) =>
    (versions.includes(4) && IPV4.test(value)) || (versions.includes(6) && isIPv6(value)),
  words: ({ versions }) => ({ version: versions.length === 2 ? 'any' : String(versions[0]) }),
  wordNames: ['version'],
  refuses({ versions }) {
    if (versions.length === 0 || versions.some((version) => version !== 4 && version !== 6)) fault('ipAddress: versions are 4 and 6.');
  },
  message: {
    en: '{version, select, 4 {{field} must be an IPv4 address, such as 192.0.2.7.} 6 {{field} must be an IPv6 address, such as 2001:db8::7.} other {{field} must be an IP address, such as 192.0.2.7.}}',
  },
});

/**
 * An IP address: version 4 in four decimal numbers (RFC 3986), version 6 (RFC 4291) without a zone. Defaults to both.
 *
 * @law An IP address of version 4 or 6 (RFC 4291), without a zone.
 * @option versions | 4, 6 or both | `[4, 6]`
 * @example text('Address', ipAddress())
 * @holds '2001:db8::7'
 * @fails '192.0.2.256'
 */
export const ipAddress = (options: { readonly versions?: readonly (4 | 6)[] } = {}, use?: ValueUse): TextRule =>
  numbered({ versions: optionsOf('ipAddress', options, ['versions']).versions ?? [4, 6] }, use);
