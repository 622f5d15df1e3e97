import { type KeyboardEvent, useRef, useState } from 'react';
import type { Reason } from '../../wire/judged.ts';
import { WHAT } from './words.ts';

const STEPS = [
  ['value', 'single values'],
  ['between', 'between fields'],
  ['record', 'stored records'],
  ['outside', 'outside'],
] as const;
/** Marks drawn; of more, what did not hold comes first. */
const MOST = 240;

interface LineProps {
  readonly reasons: readonly Reason[];
  readonly lit: ReadonlySet<string>;
  readonly chosen: string | undefined;
  onChoose(use: string): void;
}

/** Every use of a rule as one mark, in the order in which they were judged: the whole verdict at a glance. */
export function Line({ reasons, lit, chosen, onChoose }: LineProps) {
  const [at, setAt] = useState(0);
  const home = useRef<HTMLDivElement>(null);
  const shown = reasons.length > MOST ? [...reasons].sort((a, b) => rank(a) - rank(b)).slice(0, MOST) : reasons;
  const move = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1, Home: -shown.length, End: shown.length }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    const next = Math.max(0, Math.min(shown.length - 1, at + by));
    setAt(next);
    home.current?.querySelectorAll('button')[next]?.focus();
  };
  let index = -1;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the marks inside are what is focused
    <div className="line" ref={home} onKeyDown={move}>
      {STEPS.map(([step, title]) => {
        const inStep = shown.filter((reason) => reason.step === step);
        if (inStep.length === 0) return null;
        return (
          <section key={step} aria-label={title}>
            <span className="step">{title}</span>
            <span className="marks">
              {inStep.map((reason) => {
                const mine = ++index;
                const text = `${reason.use}${reason.entry ? ` at ${reason.entry}` : ''}: ${WHAT[reason.outcome]}${reason.why ? `, ${reason.why}` : ''}`;
                return (
                  <button
                    type="button"
                    key={`${reason.use} ${reason.entry ?? ''} ${mine}`}
                    className={`mark ${reason.outcome}${lit.has(reason.use) ? ' lit' : ''}${reason.isTrial ? ' trial' : ''}`}
                    title={text}
                    aria-label={text}
                    aria-pressed={chosen === reason.use}
                    tabIndex={mine === Math.min(at, shown.length - 1) ? 0 : -1}
                    onClick={() => {
                      setAt(mine);
                      onChoose(reason.use);
                    }}
                  />
                );
              })}
            </span>
          </section>
        );
      })}
    </div>
  );
}

function rank({ outcome }: Reason): number {
  return { failed: 0, unsettled: 1, skipped: 2, held: 3 }[outcome];
}
