import { graphlib, layout } from '@dagrejs/dagre';
import type { Graph, GraphRule } from '../core/plan/graph.ts';

/** What is drawn: fields lead to the rules that read them, rules to the collections that they ask. */
export interface Drawn {
  readonly id: string;
  readonly sort: 'field' | 'rule' | 'collection';
  readonly text: string;
}

/** The nodes and lines of a graph, without rules about single values and what has to do with no other. */
function drawnOf({ fields, rules, collections }: Graph): {
  readonly nodes: readonly Drawn[];
  readonly lines: readonly (readonly [from: string, to: string])[];
} {
  const drawn: readonly GraphRule[] = rules.filter(({ step }) => step !== 'value');
  const used = new Set(drawn.flatMap(({ reads }) => reads));
  const asked = new Set(drawn.flatMap(({ asks }) => asks));
  return {
    nodes: [
      ...fields.filter(({ path }) => used.has(path)).map(({ path }): Drawn => ({ id: `field ${path}`, sort: 'field', text: path })),
      ...drawn.map(({ use }, at): Drawn => ({ id: `rule ${at}`, sort: 'rule', text: use })),
      ...collections.filter((name) => asked.has(name)).map((name): Drawn => ({ id: `collection ${name}`, sort: 'collection', text: name })),
    ],
    lines: drawn.flatMap(({ reads, asks }, at) => [
      ...reads.map((path) => [`field ${path}`, `rule ${at}`] as const),
      ...asks.map((name) => [`rule ${at}`, `collection ${name}`] as const),
    ]),
  };
}

/** A graph in the DOT language (graphviz.org). */
export function asDot(graph: Graph): string {
  const { nodes, lines } = drawnOf(graph);
  const quoted = (text: string) => `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`;
  const shapes = { field: 'box', rule: 'ellipse', collection: 'cylinder' };
  return [
    `digraph ${quoted(graph.name)} {`,
    '  rankdir=LR;',
    ...nodes.map(({ id, sort, text }) => `  ${quoted(id)} [shape=${shapes[sort]}, label=${quoted(text)}];`),
    ...lines.map(([from, to]) => `  ${quoted(from)} -> ${quoted(to)}${to.startsWith('collection') ? ' [style=dashed]' : ''};`),
    '}',
    '',
  ].join('\n');
}

const [HEIGHT, CHARACTER, PADDING] = [30, 7.4, 14];

/** A graph as SVG, by itself or within a page: its colours are those of the page where it sets them (`--line`, `--field`, …). */
export function asSvg(graph: Graph): string {
  const { nodes, lines } = drawnOf(graph);
  const drawing = new graphlib.Graph()
    .setGraph({ rankdir: 'LR', nodesep: 10, ranksep: 90, marginx: 4, marginy: 4 })
    .setDefaultEdgeLabel(() => ({}));
  for (const { id, text } of nodes) drawing.setNode(id, { width: text.length * CHARACTER + 2 * PADDING, height: HEIGHT });
  for (const [from, to] of lines) drawing.setEdge(from, to);
  layout(drawing);
  const { width = 0, height = 0 } = drawing.graph();
  const paths = lines.map(([from, to]) => {
    const { points } = drawing.edge(from, to) as { readonly points: readonly { readonly x: number; readonly y: number }[] };
    const isAsked = to.startsWith('collection');
    return `<path d="${curve(points)}"${isAsked ? ' stroke-dasharray="5 4"' : ''}/>`;
  });
  const boxes = nodes.map(({ id, sort, text }) => {
    const { x, y, width: wide } = drawing.node(id) as { readonly x: number; readonly y: number; readonly width: number };
    const round = { field: 3, rule: HEIGHT / 2, collection: 0 }[sort];
    const box = `<rect class="${sort}" x="${n(x - wide / 2)}" y="${n(y - HEIGHT / 2)}" width="${n(wide)}" height="${HEIGHT}" rx="${round}"/>`;
    return `${box}<text x="${n(x)}" y="${n(y + 4)}">${escaped(text)}</text>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${n(width)} ${n(height)}" width="${n(width)}" height="${n(height)}" role="img" aria-label="${escaped(graph.name)}">
<style>
rect { stroke: var(--line, #16323a); fill: var(--field, #e8f1f2) } rect.rule { fill: var(--rule, #fdf3dc) } rect.collection { fill: var(--collection, #eee6f5); stroke-width: 2 }
path { fill: none; stroke: var(--line, #16323a); opacity: .55 } text { font: 13px ui-monospace, monospace; text-anchor: middle; fill: var(--ink, #16323a) }
</style>
${paths.join('\n')}
${boxes.join('\n')}
</svg>`;
}

function n(value: number): string {
  return String(Math.round(value * 10) / 10);
}

/** A line through points, bent where it turns. */
function curve([first, ...rest]: readonly { readonly x: number; readonly y: number }[]): string {
  if (!first) return '';
  const at = ({ x, y }: { readonly x: number; readonly y: number }) => `${n(x)} ${n(y)}`;
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
