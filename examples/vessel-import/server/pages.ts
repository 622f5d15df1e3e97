import { html } from 'hono/html';
import { controlAttributes, type ShownForm } from 'jestril/form';
import { vesselList } from '../rules.ts';
import type { State } from './imports.ts';

type Markup = ReturnType<typeof html>;

const STYLE = `
:root { color-scheme: light dark; --ink: light-dark(#16323a, #e4ecea); --ground: light-dark(#f3efe6, #10191c); --sea: light-dark(#0c5a66, #6cc6d0); --alarm: light-dark(#8a2b17, #f2a48f) }
body { font: 17px/1.5 system-ui, sans-serif; margin: 0 auto; max-width: 46rem; padding: 1.5rem 1rem; color: var(--ink); background: var(--ground) }
h1 { font: 700 1.7rem/1.2 Georgia, serif } a { color: var(--sea) } label { font-weight: 600; display: block } .hint { margin: 0 }
input[type=file] { font: inherit; margin: .4rem 0; max-width: 100% } button { font: inherit; padding: .5rem 1.1rem; color: var(--ground); background: var(--sea); border: 0; border-radius: 4px; cursor: pointer }
:focus-visible { outline: 3px solid var(--sea); outline-offset: 2px } .finding, .problem { color: var(--alarm); font-weight: 600 }
progress { width: 100%; height: 1.4rem; accent-color: var(--sea) } dl { display: grid; grid-template-columns: max-content 1fr; gap: .2rem 1.2rem } dd { margin: 0; font-weight: 600 }
table { border-collapse: collapse; width: 100% } th, td { text-align: left; padding: .3rem .6rem .3rem 0; border-bottom: 1px solid; vertical-align: top } td:first-child { text-align: right }`;

async function layout(title: string, content: Markup, isWaiting = false): Promise<string> {
  const page = html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        ${isWaiting ? html`<meta http-equiv="refresh" content="1" />` : ''}
        <title>${title} · Pellwick Marina</title>
        <link rel="icon" href="data:," />
        <style>${STYLE}</style>
      </head>
      <body>
        <main>
          <h1>${title}</h1>
          ${content}
        </main>
      </body>
    </html>`;
  return String(await page);
}

/** The form that takes a list. */
export function uploadPage(form: ShownForm, problem?: string): Promise<string> {
  const [message] = form.messages('/list');
  const { accept } = controlAttributes(vesselList, 'list') as { readonly accept?: string };
  return layout(
    'Import vessels',
    html`<form method="post" action="/imports" enctype="multipart/form-data">
      ${problem === undefined ? '' : html`<p class="problem" role="alert">${problem}</p>`}
      <label for="list">List of vessels</label>
      <p class="hint" id="list-hint">CSV with the columns mark, name, lengthOverall, beam, electric, insuredUntil; up to 50 MB.</p>
      <input type="file" id="list" name="list" required accept="${accept ?? '.csv'}" aria-describedby="list-hint${message ? ' list-finding' : ''}" ${message ? html`aria-invalid="true"` : ''} />
      ${message ? html`<p class="finding" id="list-finding">${message}</p>` : ''}
      <p><button type="submit">Import the list</button></p>
    </form>`,
  );
}

/** What has come of a list, or how far it is. */
export function importPage(id: string, state: State): Promise<string> {
  const again = html`<p><a href="/">Import another list</a></p>`;
  if (state.is === 'stopped') return layout('The import has stopped', html`<p class="problem" role="alert">${state.why}</p>${again}`);
  if (state.is === 'running') {
    const { judged, rows } = state;
    const told =
      rows === undefined ? 'The list is being read.' : `${judged.toLocaleString('en')} of ${rows.toLocaleString('en')} rows are judged.`;
    return layout(
      'The list is being imported',
      html`<p role="status">${told}</p><progress aria-label="Rows that are judged" max="${rows ?? 1}" value="${rows === undefined ? 0 : judged}"></progress>`,
      true,
    );
  }
  const { summary, hasRejected } = state;
  const { accepted, rejected, undecided, unreadable } = summary.counts;
  const { stored } = summary;
  return layout(
    'What came of the list',
    html`<dl>
        <dt>Stored</dt><dd>${stored.rows.toLocaleString('en')}</dd>
        <dt>Not accepted</dt><dd>${(rejected + undecided + unreadable).toLocaleString('en')}</dd>
        ${unreadable > 0 ? html`<dt>Of them not readable</dt><dd>${unreadable.toLocaleString('en')}</dd>` : ''}
        ${stored.refused > 0 ? html`<dt>Taken by somebody meanwhile</dt><dd>${stored.refused.toLocaleString('en')}</dd>` : ''}
      </dl>
      ${hasRejected ? html`<p><a href="/imports/${id}/to-mend.csv" download>Rows to be mended, with what was found beside them</a></p>` : html`<p>All ${accepted.toLocaleString('en')} rows are in.</p>`}
      ${
        summary.found.length === 0
          ? ''
          : html`<table>
        <thead><tr><th scope="col">Rows</th><th scope="col">What was found, and where first</th></tr></thead>
        <tbody>${summary.found.map(({ count, example: { message, origin } }) => html`<tr><td>${count.toLocaleString('en')}</td><td>${message} (line ${origin.line ?? '?'})</td></tr>`)}</tbody>
      </table>`
      }
      ${again}`,
  );
}
