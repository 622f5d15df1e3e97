import { scaleBand, scaleLinear } from 'd3-scale';
import type { Counts, Summary } from '../../../screening/summary.ts';
import type { Manifest } from '../folder/job.ts';

const [WIDTH, LEFT, RIGHT, BAR] = [960, 300, 90, 24];
const OVER_HEIGHT = 170;
/** Columns of the second drawing at most. */
const MOST_COLUMNS = 120;
/** Rules drawn; the others are counted together. */
const MOST_RULES = 24;
const OUTCOMES = ['accepted', 'undecided', 'rejected', 'unreadable'] as const;

/** The findings by rule, and what became of the rows from the first to the last, as SVG. */
export function chartOf(
  { intake, rows }: Manifest,
  { found }: Summary,
  shares: readonly { readonly rows: number; readonly counts: Counts }[],
): string {
  const rest = found.slice(MOST_RULES);
  const bars = [
    ...found.slice(0, MOST_RULES).map(({ use, field, count, severity }) => ({ label: labelOf(use, field), count, severity })),
    ...(rest.length > 0
      ? [{ label: `${rest.length} other rules`, count: rest.reduce((sum, { count }) => sum + count, 0), severity: 'error' }]
      : []),
  ];
  const height = 60 + Math.max(1, bars.length) * BAR + 70 + OVER_HEIGHT + 50;
  const over = 60 + Math.max(1, bars.length) * BAR + 70;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" width="${WIDTH}" height="${height}" role="img" aria-label="Findings of ${escaped(intake)}">
<style>
.chart-ground { fill: #fffdf8 } text { font: 13px system-ui, 'DejaVu Sans', sans-serif; fill: #16323a } .title { font: 600 17px Georgia, 'DejaVu Serif', serif }
.quiet { fill: #52676c; font-size: 12px } .bar { fill: #a3271c } .bar.warning { fill: #b98108 }
.accepted { fill: #cfe3cf } .undecided { fill: #e0b24c } .rejected { fill: #a3271c } .unreadable { fill: #16323a } .share { shape-rendering: crispEdges } .axis { stroke: #16323a; stroke-width: 1 }
</style>
<rect class="chart-ground" width="${WIDTH}" height="${height}"/>
<text class="title" x="16" y="30">What was found, by rule</text>
${barsOf(bars)}
<text class="title" x="16" y="${over - 18}">From the first row to the last</text>
${columnsOf(shares, rows, over)}
</svg>
`;
}

function labelOf(use: string, field: string): string {
  const label = use.includes('@') || field === '' ? use : `${use} (${field})`;
  return label.length > 38 ? `${label.slice(0, 37)}…` : label;
}

function barsOf(bars: readonly { readonly label: string; readonly count: number; readonly severity: string }[]): string {
  if (bars.length === 0) return '<text class="quiet" x="16" y="58">Nothing was found.</text>';
  const y = scaleBand<number>()
    .domain(bars.map((_, at) => at))
    .range([44, 44 + bars.length * BAR])
    .padding(0.25);
  const x = scaleLinear()
    .domain([0, Math.max(...bars.map(({ count }) => count))])
    .range([0, WIDTH - LEFT - RIGHT]);
  return bars
    .map(({ label, count, severity }, at) => {
      const top = y(at) as number;
      const middle = top + y.bandwidth() / 2 + 4;
      const width = Math.max(1, x(count));
      return `<text x="${LEFT - 10}" y="${n(middle)}" text-anchor="end">${escaped(label)}</text><rect class="bar ${severity}" x="${LEFT}" y="${n(top)}" width="${n(width)}" height="${n(y.bandwidth())}"/><text class="quiet" x="${n(LEFT + width + 8)}" y="${n(middle)}">${count.toLocaleString('en')}</text>`;
    })
    .join('\n');
}

/** Each column is a part of the input, with the share of each outcome in it. */
function columnsOf(shares: readonly { readonly rows: number; readonly counts: Counts }[], rows: number, top: number): string {
  const each = Math.max(1, Math.ceil(shares.length / MOST_COLUMNS));
  const columns: { rows: number; counts: Counts }[] = [];
  for (let at = 0; at < shares.length; at += each) {
    const column = { rows: 0, counts: { accepted: 0, rejected: 0, undecided: 0, unreadable: 0 } };
    for (const share of shares.slice(at, at + each)) {
      column.rows += share.rows;
      for (const outcome of OUTCOMES) column.counts[outcome] += share.counts[outcome];
    }
    columns.push(column);
  }
  const x = scaleLinear()
    .domain([0, Math.max(1, rows)])
    .range([16, WIDTH - 40]);
  const y = scaleLinear().domain([0, 1]).range([0, OVER_HEIGHT]);
  let before = 0;
  const drawn = columns.flatMap((column) => {
    const [from, to] = [x(before), x(before + column.rows)];
    before += column.rows;
    let high = 0;
    return OUTCOMES.map((outcome) => {
      const share = column.counts[outcome] / Math.max(1, column.rows);
      const rect = `<rect class="share ${outcome}" x="${n(from)}" y="${n(top + y(high))}" width="${n(Math.max(0.5, to - from))}" height="${n(y(share))}"/>`;
      high += share;
      return share === 0 ? '' : rect;
    });
  });
  const ticks = x
    .ticks(6)
    .map(
      (tick) =>
        `<line class="axis" x1="${n(x(tick))}" x2="${n(x(tick))}" y1="${top + OVER_HEIGHT}" y2="${top + OVER_HEIGHT + 5}"/><text class="quiet" x="${n(x(tick))}" y="${top + OVER_HEIGHT + 20}" text-anchor="middle">${tick.toLocaleString('en')}</text>`,
    );
  const keys = OUTCOMES.map(
    (outcome, at) =>
      `<rect class="${outcome}" x="${440 + at * 120}" y="${top - 29}" width="13" height="13"/><text class="quiet" x="${459 + at * 120}" y="${top - 18}">${outcome}</text>`,
  );
  return [
    ...drawn,
    `<line class="axis" x1="16" x2="${WIDTH - 40}" y1="${top + OVER_HEIGHT}" y2="${top + OVER_HEIGHT}"/>`,
    ...ticks,
    ...keys,
  ]
    .filter(Boolean)
    .join('\n');
}

function n(value: number): string {
  return String(Math.round(value * 10) / 10);
}

export function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
