import { graphlib, layout } from '@dagrejs/dagre';
import { type Drawn, drawnOf, type Graph, isDotted } from '../core/plan/graph.ts';

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

const [HEIGHT, CHARACTER, PADDING] = [30, 7.4, 14];

/** A graph with the place of everything in it, in pixels. */
export interface LaidOut {
  readonly width: number;
  readonly height: number;
  readonly nodes: readonly (Drawn & { readonly x: number; readonly y: number; readonly width: number; readonly height: number })[];
  readonly lines: readonly { readonly from: string; readonly to: string; readonly path: string; readonly isDotted: boolean }[];
}

/** Lays a graph out from left to right; `x` and `y` are the upper left corner of a node. */
export function laidOut(graph: Graph): LaidOut {
  const { nodes, lines } = drawnOf(graph);
  const drawing = new graphlib.Graph()
    .setGraph({ rankdir: 'LR', nodesep: 10, ranksep: 90, marginx: 4, marginy: 4 })
    .setDefaultEdgeLabel(() => ({}));
  for (const { id, text } of nodes) drawing.setNode(id, { width: text.length * CHARACTER + 2 * PADDING, height: HEIGHT });
  for (const [from, to] of lines) drawing.setEdge(from, to);
  layout(drawing);
  const { width = 0, height = 0 } = drawing.graph();
  return {
    width: rounded(width),
    height: rounded(height),
    nodes: nodes.map((each) => {
      const { x, y, width: wide } = drawing.node(each.id) as { readonly x: number; readonly y: number; readonly width: number };
      return { ...each, x: rounded(x - wide / 2), y: rounded(y - HEIGHT / 2), width: rounded(wide), height: HEIGHT };
    }),
    lines: lines.map(([from, to]) => {
      const { points } = drawing.edge(from, to) as { readonly points: readonly { readonly x: number; readonly y: number }[] };
      return { from, to, path: curve(points), isDotted: isDotted(from, to) };
    }),
  };
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
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" role="img" aria-label="${escaped(graph.name)}">
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

/** A line through points, bent where it turns. */
function curve([first, ...rest]: readonly { readonly x: number; readonly y: number }[]): string {
  if (!first) return '';
  const at = ({ x, y }: { readonly x: number; readonly y: number }) => `${rounded(x)} ${rounded(y)}`;
  let path = `M ${at(first)}`;
  for (let index = 0; index + 1 < rest.length; index++) {
    const [here, next] = [rest[index], rest[index + 1]] as [{ x: number; y: number }, { x: number; y: number }];
    const middle = index + 2 === rest.length ? next : { x: (here.x + next.x) / 2, y: (here.y + next.y) / 2 };
    path += ` Q ${at(here)} ${at(middle)}`;
  }
  return path;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
