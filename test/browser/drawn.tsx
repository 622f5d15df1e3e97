import { choice, group, intake, list, text } from 'jestril';
import { useIntake } from 'jestril/react';
import { useState } from 'react';
import { createRoot } from 'react-dom/client';

// A form of components that send nothing by themselves, and of rows that come and go.

const stay = intake('stay', {
  berth: choice('Berth', ['A1', 'A2']),
  crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
});
const sent: unknown[] = [];

function Stay() {
  const [rows, setRows] = useState([1, 2]);
  const { form, bind } = useIntake(stay, {
    send: async (data) => {
      sent.push([...data]);
      return Response.json({ findings: [] });
    },
  });
  const berth = form.field('berth');
  return (
    <form ref={bind}>
      <ul id={form.summaryId} tabIndex={-1}>
        {form.summary.map(({ key, text: told }) => (
          <li key={key}>{told}</li>
        ))}
      </ul>
      <div id={berth.id} tabIndex={-1} data-value={form.value('berth')}>
        {['A1', 'A2', 'B9'].map((each) => (
          <button key={each} type="button" onClick={() => berth.set(each)} onBlur={berth.leave}>
            {each}
          </button>
        ))}
        {berth.messages.map(({ id, text: told }) => (
          <p key={id}>{told}</p>
        ))}
      </div>
      {rows.map((row, at) => (
        <div key={row} className="row">
          <input {...form.field(`crew.${at}.name`).control} aria-label={`Row ${row}`} />
          {form.field(`crew.${at}.name`).messages.map(({ id, text: told }) => (
            <p key={id} id={id}>
              {told}
            </p>
          ))}
          <button type="button" onClick={() => setRows(rows.filter((each) => each !== row))}>
            Without {row}
          </button>
        </div>
      ))}
      <button type="submit">Send</button>
    </form>
  );
}

Object.assign(window, { sent });
createRoot(document.body.appendChild(document.createElement('main'))).render(<Stay />);
