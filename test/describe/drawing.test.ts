import fc from 'fast-check';
import { berthBooking } from '../../examples/marina/index.ts';
import type { Graph, GraphRule } from '../../src/core/plan/graph.ts';
import { asSvg } from '../../src/describe/index.ts';
import { graphOf } from '../../src/index.ts';

// Drawn graphs. By hand: JESTRIL_RANDOM=5000 npm test -- test/describe/drawing.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 100);

interface Box {
  readonly sort: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** What a drawing has: its frame, its boxes, and its lines as points along them. */
function readSvg(svg: string) {
  const numbers = (text: string) => text.match(/-?[\d.]+/g)?.map(Number) ?? [];
  const [, , width = 0, height = 0] = numbers(/viewBox="([^"]*)"/.exec(svg)?.[1] ?? '');
  const boxes = [...svg.matchAll(/<rect class="(\w+)" x="([^"]+)" y="([^"]+)" width="([^"]+)" height="([^"]+)"/g)].map(
    ([, sort = '', ...rest]): Box => {
      const [x = 0, y = 0, wide = 0, high = 0] = rest.map(Number);
      return { sort, x, y, width: wide, height: high };
    },
  );
  const lines = [...svg.matchAll(/<path d="([^"]+)"/g)].map(([, d = '']) => pointsAlong(d, numbers));
  return { width, height, boxes, lines };
}

/** Points along a path of lines that are level (H) and curves (C). */
function pointsAlong(path: string, numbers: (text: string) => number[]): [number, number][] {
  const points: [number, number][] = [];
  let [x, y] = [0, 0];
  for (const [, letter, rest = ''] of path.matchAll(/([MHC])([^MHC]*)/g)) {
    const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0] = numbers(rest);
    if (letter === 'M') [x, y] = [a, b];
    const [x0, y0] = [x, y];
    for (let step = 1; step <= 24; step++) {
      const t = step / 24;
      const bent = (p0: number, p1: number, p2: number, p3: number) =>
        (1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * p1 + 3 * (1 - t) * t ** 2 * p2 + t ** 3 * p3;
      points.push(letter === 'H' ? [x0 + (a - x0) * t, y0] : letter === 'C' ? [bent(x0, a, c, e), bent(y0, b, d, f)] : [x0, y0]);
    }
    [x, y] = points.at(-1) as [number, number];
  }
  return points;
}

const isInside = ({ x, y, width, height }: Box, [px, py]: readonly [number, number]) =>
  px > x + 0.5 && px < x + width - 0.5 && py > y + 0.5 && py < y + height - 0.5;

/** What is wrong with a drawing: everything fits, no two boxes overlap, no line is behind one, and collections are alone at the right. */
function faultsOf(svg: string): readonly string[] {
  const { width, height, boxes, lines } = readSvg(svg);
  const faults: string[] = [];
  const isApart = (one: Box, other: Box) => other.x >= one.x + one.width || other.y >= one.y + one.height;
  for (const box of boxes) {
    if (box.x < 0 || box.y < 0 || box.x + box.width > width || box.y + box.height > height) faults.push('a node is cut off');
    for (const other of boxes) if (other !== box && !isApart(box, other) && !isApart(other, box)) faults.push('nodes overlap');
    const isBehind = box.sort === 'collection' && boxes.some(({ sort, x, width: wide }) => sort !== 'collection' && x + wide >= box.x);
    if (isBehind) faults.push('a collection is not at the side');
  }
  for (const points of lines)
    for (const [x, y] of points) {
      if (boxes.some((box) => isInside(box, [x, y]))) faults.push(`a line is behind a node at ${x} ${y}`);
      if (x < 0 || y < 0 || x > width || y > height) faults.push('a line is cut off');
    }
  return faults;
}

const name = fc.string({ unit: fc.constantFrom(...'abcdé.*/-<&"'), minLength: 1, maxLength: 40 });
const graph = fc
  .record({
    fields: fc.uniqueArray(name, { minLength: 1, maxLength: 14 }),
    collections: fc.uniqueArray(name, { maxLength: 5 }),
    conditions: fc.uniqueArray(name, { maxLength: 5 }),
    uses: fc.array(name, { maxLength: 25 }),
  })
  .chain(({ fields, collections, conditions, uses }) => {
    const some = (of: readonly string[]) => (of.length === 0 ? fc.constant([]) : fc.uniqueArray(fc.constantFrom(...of), { maxLength: 4 }));
    const own = fc.record({ reads: some(fields), asks: some(collections) });
    return fc
      .record({
        made: fc.tuple(...conditions.map((each) => own.map((read) => ({ name: each, ...read })))),
        rules: fc.tuple(
          ...uses.map((use) =>
            fc
              .record({ own, when: some(conditions), step: fc.constantFrom('between', 'record', 'value') })
              .map(({ own: read, when, step }) => ({ use, rule: use, step, ...read, blames: [], own: read, when }) as GraphRule),
          ),
        ),
      })
      .map(({ made, rules }): Graph => {
        const guarded = new Set(rules.filter(({ step }) => step !== 'value').flatMap(({ when }) => when));
        const known = made.filter((each) => guarded.has(each.name));
        // A rule reads and asks what its conditions do.
        const whole = (rule: GraphRule): GraphRule => {
          const when = known.filter((each) => rule.when.includes(each.name));
          return {
            ...rule,
            when: rule.step === 'value' ? [] : rule.when,
            reads: [...new Set([...rule.reads, ...when.flatMap(({ reads }) => reads)])],
            asks: [...new Set([...rule.asks, ...when.flatMap(({ asks }) => asks)])],
          };
        };
        return {
          name: 'made',
          fields: fields.map((path) => ({ path, kind: 'text', isGiven: false })),
          collections,
          conditions: known,
          rules: rules.map(whole),
        };
      });
  });

test('whatever is drawn fits its frame, no line is behind a node, and collections are at one side', () => {
  expect(faultsOf(asSvg(graphOf(berthBooking)))).toEqual([]);
  fc.assert(
    fc.property(graph, (made) => expect(faultsOf(asSvg(made))).toEqual([])),
    { numRuns: RUNS },
  );
});
