import { useState } from 'react';
import type { Pasted } from '../../wire/requests.ts';
import { isProblem, pastedRequest } from '../client.ts';

/** Makes a submission of a request that was copied elsewhere: from a browser's tools, a log, a colleague. */
export function Paste({ onTake }: { onTake(pasted: Pasted): void }) {
  const [text, setText] = useState('');
  const [told, setTold] = useState<{ readonly text: string; readonly isProblem: boolean }>();
  const take = async () => {
    const answer = await pastedRequest(text);
    if (isProblem(answer)) return setTold({ text: answer.problem, isProblem: true });
    setText('');
    setTold({ text: sentenceOf(answer), isProblem: false });
    onTake(answer);
  };
  return (
    <details className="paste">
      <summary>Paste a request</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void take();
        }}
      >
        <label>
          A command of curl, or an entry of a HAR file
          <textarea
            className="mono"
            rows={4}
            value={text}
            onChange={(event) => setText(event.target.value)}
            spellCheck={false}
            autoComplete="off"
          />
        </label>
        <button type="submit" disabled={text.trim() === ''}>
          Take its submission
        </button>
      </form>
      {told && (
        <p className={told.isProblem ? 'problem' : 'hint'} role={told.isProblem ? 'alert' : 'status'}>
          {told.text}
        </p>
      )}
    </details>
  );
}

function sentenceOf({ method, url, as, files, isCalledForm }: Pasted): string {
  const left = files.length === 0 ? 'its headers' : `its headers, and the files of ${files.join(', ')}`;
  const type = isCalledForm ? ' It is JSON, though the request calls it a form.' : '';
  return `This is what ${method} ${url} sends${as === 'form' ? ', as a form' : ''}; ${left} are left out.${type}`;
}
