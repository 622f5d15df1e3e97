import { html } from 'hono/html';
import type { Question, TraceLine } from 'jestril';
import type { Explained } from '../explained.ts';
import type { Language } from './language.ts';
import type { Markup } from './layout.ts';

const WORDS = {
  en: {
    title: 'Behind this page',
    none: 'Send a form, and see here what came of it.',
    sent: 'Sent',
    verdict: 'Verdict',
    trace: 'Rules',
    asked: 'Look-ups',
    nothing: 'none',
    states: {
      held: 'holds',
      failed: 'does not hold',
      skipped: 'not asked',
      unsettled: 'could not be settled',
      absent: 'something is not there',
      unsound: 'a value is not right by itself',
      condition: 'its condition is not met',
      'already-failed': 'something else does not hold already',
      occasion: 'for another occasion',
      unchanged: 'nothing of it has changed',
      unavailable: 'the records cannot be reached',
      'timed-out': 'the records took too long',
      fault: 'the rule itself has failed',
      'not-asked': 'the records were not asked',
      exists: 'is there a row',
      count: 'how many rows',
      sum: 'the sum',
      equal: 'is',
      above: 'above',
      below: 'below',
      notAbove: 'at most',
      notBelow: 'at least',
      ignoringCase: 'is, in capitals or not',
      otherThan: 'is not',
      missing: 'is empty',
    },
  },
  de: {
    title: 'Hinter dieser Seite',
    none: 'Senden Sie ein Formular und sehen Sie hier, was daraus wird.',
    sent: 'Gesendet',
    verdict: 'Ergebnis',
    trace: 'Regeln',
    asked: 'Abfragen',
    nothing: 'keine',
    states: {
      accepted: 'angenommen',
      rejected: 'abgelehnt',
      undecided: 'unentschieden',
      held: 'erfüllt',
      failed: 'verletzt',
      skipped: 'übergangen',
      unsettled: 'offen',
      absent: 'etwas fehlt',
      unsound: 'etwas stimmt schon nicht',
      condition: 'die Bedingung gilt nicht',
      'already-failed': 'anderes ist schon verletzt',
      occasion: 'ein anderer Anlass',
      unchanged: 'nichts hat sich geändert',
      unavailable: 'nicht erreichbar',
      'timed-out': 'zu langsam',
      'not-asked': 'nicht gefragt',
      exists: 'gibt es eine Zeile',
      count: 'Anzahl',
      sum: 'Summe',
      equal: 'gleich',
      above: 'über',
      below: 'unter',
      notAbove: 'höchstens',
      notBelow: 'mindestens',
      ignoringCase: 'gleich, groß oder klein',
      otherThan: 'nicht',
      missing: 'leer',
    },
  },
} as const;

/** A word of Jestril's in the language of the page. */
function said(word: string, language: Language): string {
  const states: { readonly [word: string]: string } = WORDS[language].states;
  return states[word] ?? word;
}

/** What was sent, what came of it, which rules ran and what the store was asked: can be folded away. */
export function panel(explained: Explained | undefined, language: Language): Markup {
  const words = WORDS[language];
  return html`<aside id="panel" aria-label="${words.title}">
    <details open>
      <summary>${words.title}</summary>
      ${explained ? shown(explained, language) : html`<p>${words.none}</p>`}
    </details>
  </aside>`;
}

function shown({ sent, entries, status, verdict, questions }: Explained, language: Language): Markup {
  const words = WORDS[language];
  const request = [sent, ...entries.map(([name, value]) => `${name} = ${value}`)].join('\n');
  const trace = verdict?.trace ?? [];
  return html`<h2>${words.sent}</h2>
    <pre tabindex="0" aria-label="${words.sent}">${request}</pre>
    <h2>${words.verdict}</h2>
    <p><strong>${status} ${said(verdict?.outcome ?? '', language)}</strong></p>
    ${verdict?.unsettled.map(({ use, why }) => html`<p>${use}: ${said(why, language)}</p>`)}
    <h2>${words.trace}</h2>
    ${trace.length === 0 ? html`<p>${words.nothing}</p>` : html`<ul class="trace">${trace.map((each) => line(each, language))}</ul>`}
    <h2>${words.asked}</h2>
    ${questions.length === 0 ? html`<p>${words.nothing}</p>` : html`<ul>${questions.map((each) => asked(each, language))}</ul>`}`;
}

function line({ use, outcome, why }: TraceLine, language: Language): Markup {
  return html`<li class="${outcome}"><code>${use}</code> ${said(outcome, language)}${why ? `: ${said(why, language)}` : ''}</li>`;
}

function asked({ collection, terms, want, columns, keys }: Question, language: Language): Markup {
  const where = terms.map(({ column, is }) => `${column} ${said(is, language)}`).join(', ');
  const what = want === 'rows' ? columns.join(', ') : said(want, language);
  return html`<li><code>${collection}</code> ${what} (${where}): ${JSON.stringify(keys)}</li>`;
}
