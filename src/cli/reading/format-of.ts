import { delimiterIn, firstLineOf } from './csv.ts';
import type { Format } from './data.ts';
import { titleOf } from './http-in.ts';

/** The format of a file: what its name says, else what it holds. */
export function formatOf(named: string, text: string, { isField }: { readonly isField: (word: string) => boolean }): Format {
  const path = titleOf(named);
  const told = formatByName(path);
  if (told) return told;
  const first = firstLineOf(text).trim();
  if (first.startsWith('[')) return 'json';
  if (first.startsWith('{')) return isWholeObject(first) ? 'ndjson' : 'json';
  if (/\.json$/i.test(path)) return 'json';
  if (/^[^\s=&,;]+=[^&]*(&[^\s=&]+=[^&]*)*$/.test(first)) return 'form';
  const names = first.split(delimiterIn(first)).map((name) => name.trim().replaceAll('"', ''));
  return names.some(isField) ? 'csv' : 'json';
}

/** What the name of a file alone says for certain. */
export function formatByName(title: string): Format | undefined {
  if (/\.(ndjson|jsonl)$/i.test(title)) return 'ndjson';
  return /\.(csv|tsv)$/i.test(title) ? 'csv' : undefined;
}

function isWholeObject(text: string): boolean {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null;
  } catch {
    return false;
  }
}
