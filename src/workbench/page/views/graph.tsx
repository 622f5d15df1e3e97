import { useState } from 'react';
import type { LaidOut } from '../../../describe/drawing.ts';
import type { Reason, ShownCondition } from '../../wire/judged.ts';
import type { ShownIntake, ShownRule } from '../../wire/shown.ts';
import { useViewBox } from './use-view-box.ts';
import { WHAT } from './words.ts';

interface GraphProps {
  readonly graphs: ShownIntake['graphs'];
  readonly rules: readonly ShownRule[];
  readonly reasons: readonly Reason[];
  /** Fields that the last change touched, and the uses that read them. */
  readonly changed: ReadonlySet<string>;
  readonly lit: ReadonlySet<string>;
  onChoose(use: string): void;
}

const SORTS = ['field', 'condition', 'rule', 'collection'];

/** Fields, conditions, rules and collections, and what came of them; what the last change judged again is lit. */
export function Graph({ graphs, ...rest }: GraphProps) {
  const [isAll, setAll] = useState(false);
  const graph = isAll ? graphs.all : graphs.several;
  return (
    <div className="graph">
      <p className="hint">
        {SORTS.map((sort) => (
          <span key={sort} className={`key ${sort}`}>
            {sort}
          </span>
        ))}
        <span className="key lit">judged again by the last change</span>
        <label className="inline">
          <input type="checkbox" checked={isAll} onChange={(event) => setAll(event.target.checked)} /> rules about one value too
        </label>
      </p>
      {graph.nodes.length === 0 ? (
        <p className="hint">{isAll ? 'It has no rules.' : 'No rule of this intake looks at more than one field, or at a stored record.'}</p>
      ) : (
        <Drawing graph={graph} {...rest} />
      )}
    </div>
  );
}

function Drawing({ graph, rules, reasons, changed, lit, onChoose }: Omit<GraphProps, 'graphs'> & { readonly graph: LaidOut }) {
  const view = useViewBox(graph);
  const outcomes = new Map<string, Reason['outcome']>();
  for (const { use, outcome } of reasons) if (outcomes.get(use) !== 'failed') outcomes.set(use, outcome);
  const ruleAt = (id: string) => rules[Number(id.slice('rule '.length))];
  const isLit = (id: string): boolean => {
    if (id.startsWith('field ')) return changed.has(id.slice('field '.length));
    if (id.startsWith('rule ')) return lit.has(ruleAt(id)?.use ?? '');
    return graph.lines.some(
      ({ from, to }) =>
        (to === id && from.startsWith('field ') && isLit(from)) || (to === id && id.startsWith('collection ') && isLit(from)),
    );
  };
  return (
    <>
      <p className="row view">
        <button type="button" className="quiet" onClick={view.enlarge}>
          Larger
        </button>
        <button type="button" className="quiet" onClick={view.lessen} disabled={view.seen.scale === 1}>
          Smaller
        </button>
        <button type="button" className="quiet" onClick={view.fit} disabled={view.seen.scale === 1}>
          All of it
        </button>
        <small>Drag it, or use the keys + − 0 and arrows; Ctrl and the wheel.</small>
      </p>
      <section
        className="frame"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a keyboard moves it
        tabIndex={0}
        aria-label="Fields, conditions, rules and collections"
        onKeyDown={view.onKeyDown}
      >
        <svg
          {...view.svg}
          style={{ aspectRatio: `${graph.width} / ${graph.height}` }}
          preserveAspectRatio="xMidYMin meet"
          className={view.seen.scale > 1 ? 'movable' : ''}
        >
          <title>Graph of the rules</title>
          {graph.lines.map(({ from, to, path, isDotted }) => (
            <path
              key={`${from} ${to}`}
              d={path}
              className={isLit(from) && isLit(to) ? 'lit' : ''}
              strokeDasharray={isDotted ? '5 4' : undefined}
            />
          ))}
          {graph.nodes.map(({ id, sort, text, x, y, width, height }) => {
            const rule = sort === 'rule' ? ruleAt(id) : undefined;
            const outcome = rule ? outcomes.get(rule.use) : sort === 'condition' ? conditionIn(reasons, rules, text) : undefined;
            return (
              <g
                key={id}
                className={`node ${sort} ${outcome ?? ''}${isLit(id) ? ' lit' : ''}`}
                {...(rule && {
                  role: 'button',
                  tabIndex: 0,
                  'aria-label': `${rule.use}: ${outcome ? WHAT[outcome] : 'not judged'}`,
                  onClick: () => onChoose(rule.use),
                  onKeyDown: (event: { readonly key: string; preventDefault(): void }) => {
                    if (event.key !== 'Enter' && event.key !== ' ') return;
                    event.preventDefault();
                    onChoose(rule.use);
                  },
                })}
              >
                <rect x={x} y={y} width={width} height={height} rx={sort === 'rule' ? height / 2 : sort === 'condition' ? 10 : 2} />
                <text x={x + width / 2} y={y + height / 2 + 4}>
                  {text}
                </text>
              </g>
            );
          })}
        </svg>
      </section>
    </>
  );
}

/** What a condition came to in some rule that it guards, where it stands alone. */
function conditionIn(reasons: readonly Reason[], rules: readonly ShownRule[], name: string): ShownCondition['outcome'] | undefined {
  const guarded = rules.find(({ when }) => when.length === 1 && when[0] === name);
  const [condition] = reasons.find(({ use }) => use === guarded?.use)?.conditions ?? [];
  const innermost = (each: ShownCondition): ShownCondition => (each.parts[0] ? innermost(each.parts[0]) : each);
  return condition && innermost(condition).outcome;
}
