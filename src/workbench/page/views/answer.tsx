import { useEffect, useState } from 'react';
import type { Asked } from '../../wire/asked.ts';
import type { HttpAnswer } from '../../wire/requests.ts';
import { ask, isProblem } from '../client.ts';
import { CopyButton } from './copy-button.tsx';

/** Milliseconds after a keystroke before it is asked for. */
const PAUSE = 120;

/** What an HTTP client gets, in each language, and the request to be sent elsewhere. */
export function Answer({ asked, loads }: { readonly asked: Asked; readonly loads: number }) {
  const [answers, setAnswers] = useState<readonly HttpAnswer[]>([]);
  const [problem, setProblem] = useState<string>();
  const [locale, setLocale] = useState<string>(asked.settings.locale);
  const [address, setAddress] = useState('');
  // biome-ignore lint/correctness/useExhaustiveDependencies: another load of the module answers otherwise
  useEffect(() => {
    const stop = new AbortController();
    const timer = setTimeout(() => {
      ask('answers', { ...asked, address }, { signal: stop.signal })
        .then((told) => {
          if (isProblem(told)) return setProblem(told.problem);
          setProblem(undefined);
          setAnswers(told);
        })
        .catch(() => undefined);
    }, PAUSE);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [asked, address, loads]);
  const answer = answers.find((each) => each.locale === locale) ?? answers[0];
  if (problem) return <p className="problem">{problem}</p>;
  if (!answer) return <p className="hint">Asking …</p>;
  return (
    <div className="answer">
      <div className="row">
        <label className="inline">
          Accept-Language{' '}
          <select value={answer.locale} onChange={(event) => setLocale(event.target.value)}>
            {answers.map((each) => (
              <option key={each.locale}>{each.locale}</option>
            ))}
          </select>
        </label>
        <strong className={`status s${Math.floor(answer.status / 100)}`}>{answer.status}</strong>
        <span className="hint">
          {answer.status < 300 ? 'Accepted: your handler answers from here.' : `${answer.body.length.toLocaleString('en')} characters`}
        </span>
      </div>
      <pre>
        {answer.headers.map(([name, value]) => `${name}: ${value}\n`).join('')}
        {answer.body && `\n${pretty(answer.body)}`}
      </pre>
      <h3>The same request</h3>
      <label>
        To another address
        <input
          value={address}
          onChange={(event) => setAddress(event.target.value)}
          placeholder="https://marina.example/bookings"
          autoComplete="off"
          spellCheck={false}
        />
      </label>
      <p className="hint">
        {address.trim() === ''
          ? 'The workbench answers it itself, as long as it runs; its address has a key that opens this door and nothing else.'
          : 'It goes to that address when you send it.'}
      </p>
      <p className="row">
        <CopyButton text={answer.curl} what="the command" />
        <CopyButton text={answer.har} what="a HAR entry" />
      </p>
      <pre className="curl">{answer.curl}</pre>
    </div>
  );
}

function pretty(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
