import { useEffect, useState } from 'react';
import type { PatternTold } from '../../wire/judged.ts';
import { ask, isProblem } from '../client.ts';

/** An expression, whether it takes linear time on every text, and texts that it finds or not. */
export function PatternPad() {
  const [source, setSource] = useState('^[A-Z]{2}-\\d{4}$');
  const [flags, setFlags] = useState('');
  const [texts, setTexts] = useState('PW-2040\npw-2040\nPW-20401');
  const [told, setTold] = useState<PatternTold>();
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    const stop = new AbortController();
    const timer = setTimeout(() => {
      ask('pattern', { source, flags, texts: texts.split('\n').slice(0, 100) }, { signal: stop.signal })
        .then((answer) => {
          setProblem(isProblem(answer) ? answer.problem : undefined);
          if (!isProblem(answer)) setTold(answer);
        })
        .catch(() => undefined);
    }, 100);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [source, flags, texts]);
  return (
    <div className="pad">
      <div className="row">
        <label className="wide">
          Expression
          <input
            className="mono"
            value={source}
            onChange={(event) => setSource(event.target.value)}
            spellCheck={false}
            autoComplete="off"
          />
        </label>
        <label>
          Flags
          <input
            className="mono"
            size={4}
            value={flags}
            onChange={(event) => setFlags(event.target.value)}
            spellCheck={false}
            autoComplete="off"
          />
        </label>
      </div>
      {problem && <p className="problem">{problem}</p>}
      {told && (
        <p className={`proof ${told.state}`} role="status">
          {told.state === 'linear' && (
            <>
              <b>Linear.</b> No text, however hostile, makes it slow;{' '}
              <code>
                pattern(/{source}/{flags}, …)
              </code>{' '}
              takes it.
            </>
          )}
          {told.state === 'refused' && (
            <>
              <b>Refused</b> by <code>pattern</code>: {told.why}
            </>
          )}
          {told.state === 'broken' && (
            <>
              <b>No expression:</b> {told.why}
            </>
          )}
        </p>
      )}
      <label>
        Texts, one a line
        <textarea className="mono" rows={5} value={texts} onChange={(event) => setTexts(event.target.value)} spellCheck={false} />
      </label>
      <ul className="matches">
        {told?.matches.map(({ text, isMatch, from = 0, to = 0, problem: slow }, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a text may stand there twice
          <li key={index} className={isMatch ? 'held' : 'failed'}>
            <span className={`mark ${slow ? 'unsettled' : isMatch ? 'held' : 'failed'}`} aria-hidden="true" />
            <span>{slow ?? (isMatch ? 'found in' : 'not in')}</span>
            <code>
              {isMatch ? (
                <>
                  {text.slice(0, from)}
                  <mark>{text.slice(from, to)}</mark>
                  {text.slice(to)}
                </>
              ) : (
                text || '(an empty text)'
              )}
            </code>
          </li>
        ))}
      </ul>
    </div>
  );
}
