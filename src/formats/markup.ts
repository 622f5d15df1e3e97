import { Parser } from 'htmlparser2';
import { cleaning } from '../core/cleaning/clean.ts';
import type { Clean } from '../core/declared/rule.ts';
import { text } from '../core/kinds/text.ts';

/** Passes over the text; what is left of nested brackets after them loses its brackets. */
const MOST_PASSES = 8;

const STEP = cleaning('remove-markup', text, (value) => {
  let cleaned = value;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    if (!cleaned.includes('<')) return cleaned;
    const next = textOf(cleaned);
    // Taking a tag out of `<<b>b>` leaves another behind, so it is done until nothing changes.
    if (next === cleaned) return cleaned;
    cleaned = next;
  }
  return cleaned.replaceAll('<', '');
});

/**
 * Takes HTML markup out of text: tags, comments, and the content of scripts and styles go, all other text stays.
 * Entities stay as they are. Uses the parser htmlparser2, which the application installs.
 */
export const removeMarkup = (): Clean<'text'> => STEP;

/** The text between the tags. */
function textOf(markup: string): string {
  const parts: string[] = [];
  let silent = 0;
  const isSilent = (name: string) => name === 'script' || name === 'style';
  const parser = new Parser(
    {
      onopentagname(name) {
        if (isSilent(name)) silent++;
      },
      onclosetag(name) {
        if (isSilent(name) && silent > 0) silent--;
      },
      ontext(data) {
        if (silent === 0) parts.push(data);
      },
    },
    { decodeEntities: false },
  );
  parser.end(markup);
  return parts.join('');
}
