import { useEffect, useRef, useState } from 'react';
import type { Reason, ShownCondition } from '../../wire/judged.ts';
import type { ShownRule } from '../../wire/shown.ts';
import { ORDER, WHAT } from './words.ts';

interface WhyProps {
  readonly reasons: readonly Reason[];
  readonly leftOut: number;
  readonly rules: readonly ShownRule[];
  readonly lit: ReadonlySet<string>;
  /** The use to open and go to; another number for each time. */
  readonly chosen: { readonly use: string; readonly count: number } | undefined;
  onPlace(pointer: string): void;
  onSample(reason: Reason): void;
}

/** Every rule: what became of it, what it read, what it asked, and the parts of its conditions. */
export function Why({ reasons, leftOut, rules, lit, chosen, onPlace, onSample }: WhyProps) {
  const [sought, setSought] = useState('');
  const known = new Map(rules.map((rule) => [rule.use, rule]));
  const wanted = sought.trim().toLowerCase();
  const matching = reasons.filter(
    ({ use, read, because }) =>
      wanted === '' || [use, ...because, ...read.map(({ field }) => field)].some((text) => text.toLowerCase().includes(wanted)),
  );
  return (
    <div className="why">
      <label className="seek">
        <span>Rule or field</span>
        <input type="search" value={sought} onChange={(event) => setSought(event.target.value)} />
      </label>
      {ORDER.map((outcome) => {
        const group = matching.filter((reason) => reason.outcome === outcome);
        if (group.length === 0) return null;
        return (
          <section key={outcome} className={`group ${outcome}`}>
            <h3>
              {group.length} {WHAT[outcome]}
            </h3>
            {group.map((reason, index) => (
              <Row
                // biome-ignore lint/suspicious/noArrayIndexKey: a rule may look at one entry several times
                key={`${reason.use} ${reason.entry ?? ''} ${index}`}
                reason={reason}
                rule={known.get(reason.use)}
                isLit={lit.has(reason.use)}
                chosen={chosen?.use === reason.use ? chosen.count : undefined}
                onPlace={onPlace}
                onSample={onSample}
              />
            ))}
          </section>
        );
      })}
      {leftOut > 0 && <p className="hint">{leftOut.toLocaleString('en')} that held are not listed.</p>}
      {matching.length === 0 && <p className="hint">No rule reads or is called that.</p>}
    </div>
  );
}

interface RowProps extends Pick<WhyProps, 'onPlace' | 'onSample'> {
  readonly reason: Reason;
  readonly rule: ShownRule | undefined;
  readonly isLit: boolean;
  readonly chosen: number | undefined;
}

function Row({ reason, rule, isLit, chosen, onPlace, onSample }: RowProps) {
  const home = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    if (chosen === undefined || !home.current) return;
    home.current.open = true;
    home.current.scrollIntoView({ block: 'nearest' });
    home.current.querySelector('summary')?.focus();
  }, [chosen]);
  const isSampled = rule?.isOwn && (reason.outcome === 'held' || reason.outcome === 'failed');
  return (
    <details
      ref={home}
      className={`reason ${reason.outcome}${isLit ? ' lit' : ''}`}
      open={reason.outcome === 'failed' || reason.outcome === 'unsettled'}
    >
      <summary>
        <span className={`mark ${reason.outcome}`} aria-hidden="true" />
        <code>{reason.use}</code>
        {reason.entry && <code className="entry-at">{reason.entry}</code>}
        {reason.isTrial && <span className="tag">on trial</span>}
        {reason.why && (
          <span className="because">
            {reason.why}
            {reason.because.length > 0 && `: ${reason.because.join(' ')}`}
          </span>
        )}
      </summary>
      <div className="inside">
        {rule && <p className="sentence">{rule.sentence}</p>}
        {rule && rule.terms.length > 0 && <p className="hint">{rule.terms.join('; ')}</p>}
        {reason.read.length > 0 && (
          <dl className="read">
            {reason.read.map(({ role, field, value }) => (
              <div key={`${role} ${field}`}>
                <dt>
                  {role && role !== field && <span>{role} ← </span>}
                  <button
                    type="button"
                    onClick={() =>
                      onPlace(
                        `/${field
                          .split(', ')[0]
                          ?.replaceAll('.', '/')
                          .replace(/\/\*.*$/, '')}`,
                      )
                    }
                  >
                    <code>{field}</code>
                  </button>
                </dt>
                <dd>
                  <code>{value}</code>
                </dd>
              </div>
            ))}
          </dl>
        )}
        {reason.conditions.map((condition) => (
          <Condition key={condition.words} condition={condition} />
        ))}
        {reason.asked.length > 0 && (
          <ol className="asked">
            {reason.asked.map((asked) => (
              <li key={`${asked.round} ${asked.collection} ${asked.where}`}>
                <span className="round">round {asked.round}</span> <b>{asked.collection}</b> where <code>{asked.where}</code>
                <span className="found">
                  found <code>{asked.found}</code>
                </span>
              </li>
            ))}
          </ol>
        )}
        {isSampled && (
          <button type="button" className="quiet" onClick={() => onSample(reason)}>
            Keep as a sample of {reason.rule}
          </button>
        )}
      </div>
    </details>
  );
}

function Condition({ condition }: { readonly condition: ShownCondition }) {
  return (
    <div className="condition">
      <p>
        <span className={`mark ${condition.outcome}`} aria-hidden="true" /> when {condition.words}:{' '}
        <b>{condition.outcome === 'held' ? 'holds' : condition.outcome === 'failed' ? 'does not hold' : WHAT[condition.outcome]}</b>
        {condition.because.length > 0 && <code> {condition.because.join(' ')}</code>}
      </p>
      {condition.parts.map((part) => (
        <Condition key={part.words} condition={part} />
      ))}
    </div>
  );
}
