import { collectionText, stepsOf } from './as-text.ts';
import type { DescribedField, DescribedRule, Description, Refused } from './description.ts';
import { asSvg } from './drawing.ts';

/** Descriptions as one HTML page that needs nothing else: no script, no request. */
export function describedAsHtml(descriptions: readonly Description[]): string {
  const [first] = descriptions;
  const title = descriptions.map(({ name }) => name).join(', ');
  const contents =
    descriptions.length < 2
      ? ''
      : `<nav><ul>${descriptions.map(({ name }) => `<li><a href="#${escaped(name)}">${escaped(name)}</a></li>`).join('')}</ul></nav>`;
  return `<!doctype html>
<html lang="${escaped(first?.locale ?? 'en')}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${escaped(title)}</title>
<style>${STYLE}</style>
</head>
<body>
${contents}
${descriptions.map(articleOf).join('\n')}
</body>
</html>
`;
}

const STYLE = `
:root { color-scheme: light dark; --ink: #16323a; --paper: #fffdf8; --line: #16323a; --soft: #5b7078; --edge: #d5dcd9; --field: #e3eff0; --rule: #fdf0d2; --collection: #ece3f4; --bad: #a0360c }
@media (prefers-color-scheme: dark) { :root { --ink: #e6eeec; --paper: #11211f; --line: #9db8b4; --soft: #a3b5b1; --edge: #33504b; --field: #1d3b3a; --rule: #44381a; --collection: #352a44; --bad: #ffb08a } }
* { box-sizing: border-box }
body { margin: 0 auto; padding: 2rem 1rem 4rem; max-width: 64rem; background: var(--paper); color: var(--ink); font: 16px/1.5 system-ui, sans-serif }
h1 { font-size: 1.9rem; margin: 2.5rem 0 .25rem } h2 { font-size: 1.2rem; margin: 2.25rem 0 .5rem; border-bottom: 2px solid var(--edge) }
.about, .path, .use, small { color: var(--soft) } .about { margin: 0 }
dl.fields { margin: 0 } dl.fields > div { padding: .55rem 0 .55rem calc(var(--level) * 1.5rem); border-bottom: 1px solid var(--edge) }
dt { font-weight: 600 } dt .path { font: .9em ui-monospace, monospace; font-weight: 400; margin-left: .5rem } dd { margin: 0 }
ul.rules { list-style: none; margin: .25rem 0 0; padding: 0 0 0 1rem } ul.rules > li { padding: .2rem 0 }
.use { display: inline-block; font: .85em ui-monospace, monospace; margin-left: .5rem; overflow-wrap: anywhere }
.refused { display: block; font-size: .92em; color: var(--soft); padding-left: 1rem; border-left: 3px solid var(--edge) } .refused b { color: var(--bad); font-weight: 600 }
code, pre { font: .9em ui-monospace, monospace } pre { background: var(--field); padding: .9rem; overflow-x: auto }
figure { margin: 0 } nav ul { display: flex; flex-wrap: wrap; gap: .25rem 1.25rem; padding: 0; list-style: none }
a { color: inherit } a:focus-visible { outline: 3px solid var(--line) }
`;

function articleOf(description: Description): string {
  const { words, name, accepted, graph } = description;
  const about = [
    ...(description.zone !== undefined ? [`${words.zone}: ${description.zone}`] : []),
    `${words.occasions}: ${description.occasions.join(', ')}`,
    ...(description.storedIn !== undefined ? [`${words.storedIn}: ${description.storedIn}`] : []),
    ...(description.refusesStrangers ? [words.strangersRefused] : []),
  ];
  const sections: string[] = [];
  const section = (title: string, body: string) => {
    if (body !== '') sections.push(`<section><h2>${escaped(title)}</h2>\n${body}</section>`);
  };
  section(words.fields, fieldsOf(description.fields, words));
  section(words.given, fieldsOf(description.given, words));
  for (const [step, title] of stepsOf(description))
    section(
      title,
      rulesOf(
        description.rules.filter((rule) => rule.step === step),
        words,
      ),
    );
  section(
    words.collections,
    description.collections.length === 0
      ? ''
      : `<ul>${description.collections.map((each) => `<li>${escaped(collectionText(each, words))}</li>`).join('')}</ul>`,
  );
  if (accepted) {
    const given =
      Object.keys(accepted.given).length === 0
        ? ''
        : `<p>${escaped(words.given)}:</p><pre tabindex="0">${escaped(JSON.stringify(accepted.given, null, 2))}</pre>`;
    const stored = accepted.stored
      .map(({ collection, row }) => `<li>${escaped(words.withStored)} ${escaped(collection)}: <code>${escaped(row)}</code></li>`)
      .join('');
    section(
      `${words.example}: ${words.accepted}`,
      `<pre tabindex="0">${escaped(JSON.stringify(accepted.submission, null, 2))}</pre>${given}${stored && `<ul>${stored}</ul>`}`,
    );
  }
  if (graph.rules.some(({ step }) => step !== 'value')) section(words.graph, `<figure>${asSvg(graph)}</figure>`);
  return `<article><h1 id="${escaped(name)}">${escaped(name)}</h1>\n${about.map((fact) => `<p class="about">${escaped(fact)}</p>`).join('')}\n${sections.join('\n')}</article>`;
}

function fieldsOf(fields: readonly DescribedField[], words: Description['words']): string {
  if (fields.length === 0) return '';
  const rows = fields.map((field) => {
    const told = [field.kind, field.presence, ...field.marks].join(', ');
    const options = field.options.length > 0 ? `<dd>${escaped(`${words.options} ${field.options.join(', ')}`)}</dd>` : '';
    const cleans = field.cleans.length > 0 ? `<dd><small>${escaped(`${words.cleaned}: ${field.cleans.join(', ')}`)}</small></dd>` : '';
    const rules = rulesOf(field.rules, words);
    return `<div style="--level: ${field.level}"><dt>${escaped(field.label)}<span class="path">${escaped(field.path)}</span></dt><dd>${escaped(told)}</dd>${options}${cleans}${rules && `<dd>${rules}</dd>`}</div>`;
  });
  return `<dl class="fields">${rows.join('\n')}</dl>`;
}

function rulesOf(rules: readonly DescribedRule[], words: Description['words']): string {
  if (rules.length === 0) return '';
  const items = rules.map(({ sentence, terms, use, refused }) => {
    const how = terms.length > 0 ? ` <small>(${escaped(terms.join('; '))})</small>` : '';
    return `<li>${escaped(sentence)}${how}<span class="use">${escaped(use)}</span>${refused ? refusedOf(refused, sentence, words) : ''}</li>`;
  });
  return `<ul class="rules">${items.join('\n')}</ul>`;
}

function refusedOf({ read, stored, message }: Refused, sentence: string, words: Description['words']): string {
  const values = read.map(({ label, value }) => `${escaped(label)} <code>${escaped(value)}</code>`).join(', ');
  const rows = stored.map(({ collection, found }) => `${escaped(collection)} <code>${escaped(found)}</code>`).join(', ');
  return `<span class="refused"><b>${escaped(words.refused)}</b>: ${values}${rows && `; ${escaped(words.withStored)} ${rows}`}${message === sentence ? '' : `. ${escaped(message)}`}</span>`;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
