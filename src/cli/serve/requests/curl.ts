import { Misuse } from '../../basics/misuse.ts';
import type { SeenRequest } from './request.ts';
import { shellWords } from './shell-words.ts';

/** Options that say something about the body or where it goes; any other is left out. */
const SHORT: { readonly [letter: string]: string } = { X: 'request', H: 'header', d: 'data', F: 'form', G: 'get', I: 'head' };
/** Options without a value, of those that commands have which a browser or a person writes; any other has one. */
const BARE = new Set(
  'get head compressed insecure include silent verbose location globoff fail show-error http1.0 http1.1 http2 http3 no-buffer ipv4 ipv6 progress-bar tcp-nodelay location-trusted path-as-is no-keepalive fail-with-body tlsv1.2 tlsv1.3'.split(
    ' ',
  ),
);
const BARE_SHORT = 'GIksvLgfSiN046#OJRnq';

interface Option {
  readonly name: string;
  readonly value: string;
}

/**
 * Reads a command of `curl` as the request that it would send; nothing of it is run, and no file is read.
 *
 * @throws Misuse for what is no such command, or takes its body from a file
 */
export function curlRequest(text: string): SeenRequest {
  if (/^\s*curl(?:\.exe)?\s+(?:-\S+\s+)*\^/.test(text)) throw new Misuse('That is a command for cmd.exe; copy it for bash instead.');
  const { words, input } = shellWords(text.trimStart());
  const [command, ...rest] = words[0] === '$' ? words.slice(1) : words;
  if (command !== 'curl') throw new Misuse(NO_REQUEST);
  const { options, urls } = optionsIn(rest);
  const all = (name: string) => options.filter((option) => option.name === name).map(({ value }) => value);
  const headers = new Map(
    all('header')
      .map((header) => splitAt(header, ':'))
      .map(([name, value]) => [name.toLowerCase(), value.trim()]),
  );
  const data = options.flatMap((option) => dataOf(option, input));
  const isJson = options.some(({ name }) => name === 'json');
  const form = all('form');
  const url = urls[0] ?? all('url')[0] ?? '';
  const isGet = all('get').length > 0;
  const sent = data.length === 0 ? undefined : data.join(isJson ? '' : '&');
  const body = isGet ? undefined : sent;
  const isHead = all('head').length > 0;
  return {
    method: all('request').at(-1) ?? (isHead ? 'HEAD' : body !== undefined || form.length > 0 ? 'POST' : 'GET'),
    url: isGet && sent !== undefined ? `${url}${url.includes('?') ? '&' : '?'}${sent}` : url,
    type: headers.get('content-type') ?? (isJson ? 'application/json' : body === undefined ? undefined : FORM),
    body,
    ...(form.length > 0 && partsOf(form)),
  };
}

export const NO_REQUEST = 'That is no request: paste a command of curl, or an entry of a HAR file.';
const FORM = 'application/x-www-form-urlencoded';

function optionsIn(words: readonly string[]): { readonly options: readonly Option[]; readonly urls: readonly string[] } {
  const options: Option[] = [];
  const urls: string[] = [];
  for (let at = 0; at < words.length; at++) {
    const word = words[at] as string;
    const next = () => words[++at] ?? '';
    if (word.startsWith('--') && word.length > 2) {
      const name = word.slice(2);
      options.push({ name, value: BARE.has(name) ? '' : next() });
    } else if (word.startsWith('-') && word.length > 1) {
      // Several letters may stand together; the first that has a value takes the rest.
      for (let letter = 1; letter < word.length; letter++) {
        const name = SHORT[word[letter] as string] ?? '';
        if (BARE_SHORT.includes(word[letter] as string)) {
          options.push({ name, value: '' });
          continue;
        }
        options.push({ name, value: word.slice(letter + 1) || next() });
        break;
      }
    } else urls.push(word);
  }
  return { options, urls };
}

/** What an option adds to the body; `@-` is the text below the command. */
function dataOf({ name, value }: Option, input: string | undefined): string[] {
  if (!['data', 'data-ascii', 'data-binary', 'data-raw', 'data-urlencode', 'json'].includes(name)) return [];
  if (name === 'data-raw') return [value];
  if (name === 'data-urlencode') return [encoded(value)];
  if (!value.startsWith('@')) return [value];
  if (value !== '@-' || input === undefined) throw fromFile(value.slice(1));
  // A text that is read from somewhere loses its line breaks, unless it is said to be as it is.
  return [name === 'data-binary' || name === 'json' ? input : input.replaceAll(/[\r\n]/g, '')];
}

function encoded(value: string): string {
  const [name, text] = /^[^=@]*=/.test(value) ? splitAt(value, '=') : ['', value];
  if (/^[^=]*@/.test(value) && !value.includes('=')) throw fromFile(value.slice(value.indexOf('@') + 1));
  return name === '' ? encodeURIComponent(text) : `${name}=${encodeURIComponent(text)}`;
}

function fromFile(file: string): Misuse {
  return new Misuse(
    `The command takes its body from ${file === '-' ? 'standard input' : `the file ${file}`}, which is not read; write it into the command.`,
  );
}

function partsOf(form: readonly string[]): Pick<SeenRequest, 'parts' | 'files'> {
  const pairs = form.map((each) => splitAt(each, '='));
  const isFile = ([, value]: readonly [string, string]) => /^[@<]/.test(value);
  return { parts: pairs.filter((pair) => !isFile(pair)), files: pairs.filter(isFile).map(([name]) => name) };
}

function splitAt(text: string, mark: string): readonly [string, string] {
  const at = text.indexOf(mark);
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)];
}
