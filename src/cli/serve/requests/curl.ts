import { Misuse } from '../../basics/misuse.ts';
import type { SeenRequest } from './request.ts';
import { shellWords } from './shell-words.ts';

/** Options by what they say; of one letter, too. */
const SHORT: { readonly [letter: string]: string } = {
  X: 'request',
  H: 'header',
  d: 'data',
  F: 'form',
  G: 'get',
  I: 'head',
  T: 'upload-file',
};
/** Options that are left out, since they say nothing of what is sent: those with a value, and those without. */
const VALUED = words(
  'user user-agent cookie cookie-jar referer output max-time connect-timeout proxy cacert cert key resolve retry write-out limit-rate max-redirs interface',
);
const VALUED_SHORT = 'uAbcemxEwo';
const BARE = words(
  'compressed insecure include silent verbose location globoff fail show-error fail-with-body http1.0 http1.1 http2 http3 no-buffer ipv4 ipv6 progress-bar no-progress-meter tcp-nodelay path-as-is no-keepalive basic digest negotiate anyauth tlsv1.2 tlsv1.3',
);
const BARE_SHORT = 'ksvLgfSiN046#OJRnq';
/** Options that are read: with a value, and without. */
const READ = words('request header data data-ascii data-binary data-raw data-urlencode json form form-string url upload-file');
const READ_BARE = words('get head');

function words(text: string): ReadonlySet<string> {
  return new Set(text.split(' '));
}

interface Option {
  readonly name: string;
  readonly value: string;
}

/**
 * Reads a command of `curl` as the request that it would send; nothing of it is run, and no file is read.
 *
 * @throws Misuse for what is no such command, takes its body from a file, or says something that is not known here
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
  const form = options.flatMap(({ name, value }) => (name === 'form' || name === 'form-string' ? [partOf(name, value)] : []));
  const [url = '', another] = [...urls, ...all('url')];
  if (another !== undefined) throw new Misuse('The command asks several addresses; leave one of them in it.');
  const [file] = all('upload-file');
  if (file !== undefined) throw fromFile(file);
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

function optionsIn(typed: readonly string[]): { readonly options: readonly Option[]; readonly urls: readonly string[] } {
  const options: Option[] = [];
  const urls: string[] = [];
  for (let at = 0; at < typed.length; at++) {
    const word = typed[at] as string;
    const next = () => typed[++at] ?? '';
    if (word.startsWith('--') && word.length > 2) {
      const name = word.slice(2);
      const isBare = BARE.has(name) || READ_BARE.has(name);
      // What an unknown option takes with it may be the body.
      if (!isBare && !VALUED.has(name) && !READ.has(name)) throw unknown(word);
      options.push({ name, value: isBare ? '' : next() });
    } else if (word.startsWith('-') && word.length > 1) {
      // Several letters may stand together; the first that has a value takes the rest.
      for (let at = 1; at < word.length; at++) {
        const letter = word[at] as string;
        const name = SHORT[letter] ?? '';
        const isBare = BARE_SHORT.includes(letter) || READ_BARE.has(name);
        if (!isBare && name === '' && !VALUED_SHORT.includes(letter)) throw unknown(`-${letter}`);
        options.push({ name, value: isBare ? '' : word.slice(at + 1) || next() });
        if (!isBare) break;
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

function unknown(option: string): Misuse {
  return new Misuse(`The option ${option} of the command is not known here; take it away if it says nothing of what is sent.`);
}

interface Part {
  readonly name: string;
  readonly value: string;
  readonly isFile: boolean;
}

/** A part of a form; behind a value may stand what sort it is. */
function partOf(option: string, text: string): Part {
  const [name, value] = splitAt(text, '=');
  if (option === 'form-string') return { name, value, isFile: false };
  return { name, value: value.replace(/;(?:type|filename|headers|encoder)=.*$/s, ''), isFile: /^[@<]/.test(value) };
}

function partsOf(form: readonly Part[]): Pick<SeenRequest, 'parts' | 'files'> {
  return {
    parts: form.filter(({ isFile }) => !isFile).map(({ name, value }) => [name, value]),
    files: form.filter(({ isFile }) => isFile).map(({ name }) => name),
  };
}

function splitAt(text: string, mark: string): readonly [string, string] {
  const at = text.indexOf(mark);
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)];
}
