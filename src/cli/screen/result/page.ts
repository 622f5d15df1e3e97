import type { Summary } from '../../../screening/summary.ts';
import type { Manifest } from '../folder/job.ts';
import type { Progress } from '../work/coordinate.ts';
import { escaped } from './chart.ts';

/** What a page about a screening shows. */
export type Shown =
  | { readonly state: 'running'; readonly progress: Progress; readonly rate: number; readonly left: string }
  | { readonly state: 'stopped'; readonly progress: Progress; readonly why: string }
  | { readonly state: 'done'; readonly summary: Summary; readonly chart: string };

/** A page in the folder of a screening, written anew as it goes on; an open one loads itself again. */
export function pageOf(path: string, { intake, rows, sources }: Manifest, shown: Shown): string {
  const refresh = shown.state === 'running' ? '<meta http-equiv="refresh" content="2">' : '';
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">${refresh}<title>${escaped(intake)}: screening</title>
<style>
:root { color-scheme: light dark } body { font: 15px/1.5 system-ui, 'DejaVu Sans', sans-serif; margin: 0 auto; max-width: 1000px; padding: 24px 20px; background: light-dark(#f3efe6, #10191c); color: light-dark(#16323a, #e4ecea) }
h1 { font: 700 26px/1.2 Georgia, 'DejaVu Serif', serif; margin: 0 0 4px } h2 { font: 600 18px Georgia, 'DejaVu Serif', serif } code { font-family: ui-monospace, 'DejaVu Sans Mono', monospace; overflow-wrap: anywhere }
progress { width: 100%; height: 22px; accent-color: #0c5a66 } dl { display: grid; grid-template-columns: max-content 1fr; gap: 4px 20px } dd { margin: 0 } .numbers { font: 600 22px Georgia, 'DejaVu Serif', serif }
svg { max-width: 100%; height: auto } a { color: light-dark(#0c5a66, #6cc6d0) }
</style></head><body>
<h1>${escaped(intake)}</h1>
<p>${rows.toLocaleString('en')} rows of ${sources.map(({ name }) => `<code>${escaped(name)}</code>`).join(', ')}</p>
${bodyOf(path, rows, shown)}
</body></html>
`;
}

function bodyOf(path: string, rows: number, shown: Shown): string {
  if (shown.state === 'done') {
    const { accepted, rejected, undecided, unreadable } = shown.summary.counts;
    const numbers = { accepted, rejected, undecided, unreadable };
    const files = ['verdicts.ndjson', 'not-accepted.csv', 'examples.ndjson', 'counts.csv', 'summary.json'];
    return `<dl>${Object.entries(numbers)
      .map(([name, count]) => `<dt>${name}</dt><dd class="numbers">${count.toLocaleString('en')}</dd>`)
      .join('')}</dl>
${shown.chart}
<h2>Files</h2><ul>${files.map((name) => `<li><a href="${name}">${name}</a></li>`).join('')}</ul><p><code>${escaped(path)}</code></p>`;
  }
  const { progress } = shown;
  const what = progress.pass === 'judging' ? 'Judging ranges' : 'Judging ranges again whose rows claim what others have';
  const told =
    shown.state === 'running' ? `${shown.rate.toLocaleString('en')} rows a second, ${escaped(shown.left)} left` : escaped(shown.why);
  return `<p role="status">${what}: ${progress.done.toLocaleString('en')} of ${progress.ranges.toLocaleString('en')}</p>
<progress max="${Math.max(1, progress.ranges)}" value="${progress.done}" aria-label="Ranges that are done"></progress>
<p>${progress.rows.toLocaleString('en')} of ${rows.toLocaleString('en')} rows; ${told}.</p>`;
}
