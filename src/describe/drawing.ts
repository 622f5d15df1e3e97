import { graphlib, layout } from '@dagrejs/dagre';
import { type Drawn, type DrawnWhat, drawnOf, type Graph, isDotted } from '../core/plan/graph.ts';

/** A graph in the DOT language (graphviz.org). */
export function asDot(graph: Graph): string {
  const { nodes, lines } = drawnOf(graph);
  const quoted = (text: string) => `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`;
  const shapes = { field: 'box', condition: 'hexagon', rule: 'ellipse', collection: 'cylinder' };
  return [
    `digraph ${quoted(graph.name)} {`,
    '  rankdir=LR;',
    ...nodes.map(({ id, sort, text }) => `  ${quoted(id)} [shape=${shapes[sort]}, label=${quoted(text)}];`),
    ...lines.map(([from, to]) => `  ${quoted(from)} -> ${quoted(to)}${isDotted(from, to) ? ' [style=dashed]' : ''};`),
    '}',
    '',
  ].join('\n');
}

const [HEIGHT, CHARACTER, PADDING] = [30, 7.9, 14];
/** Between two columns, between two nodes of one, and around all of them. */
const [GAP, APART, MARGIN] = [84, 10, 6];

/** A graph with the place of everything in it, in pixels. */
export interface LaidOut {
  readonly width: number;
  readonly height: number;
  readonly nodes: readonly (Drawn & { readonly x: number; readonly y: number; readonly width: number; readonly height: number })[];
  readonly lines: readonly { readonly from: string; readonly to: string; readonly path: string; readonly isDotted: boolean }[];
}

/**
 * Lays a graph out in columns: fields at the left, conditions, rules, and collections at the right. A line crosses a column level, in a
 * place of its own, and goes up or down between columns alone, so that it is behind no node. `x` and `y` are the upper left corner of a node.
 */
export function laidOut(graph: Graph, what: DrawnWhat = {}): LaidOut {
  const { nodes, lines } = drawnOf(graph, what);
  const ranks = ranksOf(nodes);
  const drawing = new graphlib.Graph()
    // Ranks are halved for labels on lines, whether there are some or not.
    .setGraph({ rankdir: 'LR', nodesep: APART, edgesep: APART, ranksep: GAP, ranker: 'none' })
    .setDefaultEdgeLabel(() => ({}));
  for (const { id, text } of nodes)
    drawing.setNode(id, { width: text.length * CHARACTER + 2 * PADDING, height: HEIGHT, rank: 2 * (ranks.get(id) as number) });
  for (const [from, to] of lines) drawing.setEdge(from, to);
  layout(drawing);
  const at = (id: string) => drawing.node(id) as Box;
  const columns = columnsOf(nodes, ranks, at);
  const routes = lines.map(([from, to]) => {
    const { points } = drawing.edge(from, to) as { readonly points: readonly { readonly y: number }[] };
    const [first, last] = [ranks.get(from) as number, ranks.get(to) as number];
    const levels = Array.from({ length: last - first - 1 }, (_, by) => (points[2 * (by + 1)] as { readonly y: number }).y);
    return { from, to, isDotted: isDotted(from, to), levels: [at(from).y, ...levels, at(to).y], columns: columns.slice(first, last + 1) };
  });
  const ys = [...nodes.flatMap(({ id }) => [at(id).y - HEIGHT / 2, at(id).y + HEIGHT / 2]), ...routes.flatMap(({ levels }) => levels)];
  const top = Math.min(...ys, 0);
  const place = (x: number, y: number) => `${rounded(x + MARGIN)} ${rounded(y - top + MARGIN)}`;
  return {
    width: rounded(Math.max(0, ...columns.map(({ right }) => right)) + 2 * MARGIN),
    height: rounded(Math.max(...ys, 0) - top + 2 * MARGIN),
    nodes: nodes.map((each) => {
      const { x, y, width } = at(each.id);
      return {
        ...each,
        x: rounded(x - width / 2 + MARGIN),
        y: rounded(y - HEIGHT / 2 - top + MARGIN),
        width: rounded(width),
        height: HEIGHT,
      };
    }),
    lines: routes.map(({ levels, columns: crossed, ...line }) => {
      const [start, end] = [at(line.from), at(line.to)];
      return { ...line, path: pathOf(start.x + start.width / 2, end.x - end.width / 2, levels, crossed, place) };
    }),
  };
}

interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
}
interface Column {
  readonly left: number;
  readonly right: number;
}

/** From left to right; a sort of which there is nothing takes no column. */
const COLUMNS: readonly Drawn['sort'][] = ['field', 'condition', 'rule', 'collection'];

function ranksOf(nodes: readonly Drawn[]): ReadonlyMap<string, number> {
  const drawn = COLUMNS.filter((each) => nodes.some(({ sort }) => sort === each));
  return new Map(nodes.map(({ id, sort }) => [id, drawn.indexOf(sort)]));
}

function columnsOf(nodes: readonly Drawn[], ranks: ReadonlyMap<string, number>, at: (id: string) => Box): readonly Column[] {
  const columns: { left: number; right: number }[] = [];
  for (const { id } of nodes) {
    const { x, width } = at(id);
    const rank = ranks.get(id) as number;
    const { left = x, right = x } = columns[rank] ?? {};
    columns[rank] = { left: Math.min(left, x - width / 2), right: Math.max(right, x + width / 2) };
  }
  return columns;
}

/** Level through columns, and bent between them. */
function pathOf(
  from: number,
  to: number,
  levels: readonly number[],
  columns: readonly Column[],
  place: (x: number, y: number) => string,
): string {
  let path = `M ${place(from, levels[0] as number)}`;
  for (const [index, { right }] of columns.slice(0, -1).entries()) {
    const [level, next] = [levels[index] as number, levels[index + 1] as number];
    const { left } = columns[index + 1] as Column;
    const middle = (right + left) / 2;
    path += ` H ${place(right, 0).split(' ')[0]} C ${place(middle, level)} ${place(middle, next)} ${place(left, next)}`;
  }
  return `${path} H ${place(to, 0).split(' ')[0]}`;
}

const ROUND = { field: 3, condition: 10, rule: HEIGHT / 2, collection: 0 } as const;

/** A graph as SVG, by itself or within a page: its colours are those of the page where it sets them (`--line`, `--field`, …). */
export function asSvg(graph: Graph): string {
  const { nodes, lines, width, height } = laidOut(graph);
  const paths = lines.map(({ path, isDotted: dotted }) => `<path d="${path}"${dotted ? ' stroke-dasharray="5 4"' : ''}/>`);
  const boxes = nodes.map(({ sort, text, x, y, width: wide, height: high }) => {
    const box = `<rect class="${sort}" x="${x}" y="${y}" width="${wide}" height="${high}" rx="${ROUND[sort]}"/>`;
    return `${box}<text x="${rounded(x + wide / 2)}" y="${rounded(y + high / 2 + 4)}">${escaped(text)}</text>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" style="max-width:100%;height:auto" role="img" aria-label="${escaped(graph.name)}">
<style>
rect { stroke: var(--line, #16323a); fill: var(--field, #e8f1f2) } rect.rule { fill: var(--rule, #fdf3dc) } rect.condition { fill: var(--condition, #e3f0dd) } rect.collection { fill: var(--collection, #eee6f5); stroke-width: 2 }
path { fill: none; stroke: var(--line, #16323a); opacity: .55 } text { font: 13px ui-monospace, monospace; text-anchor: middle; fill: var(--ink, #16323a) }
</style>
${paths.join('\n')}
${boxes.join('\n')}
</svg>`;
}

function rounded(value: number): number {
  return Math.round(value * 10) / 10;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
