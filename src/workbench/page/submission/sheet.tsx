import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import type { ShownIntake } from '../../wire/shown.ts';
import type { Draft } from '../drafts.ts';
import type { Judging } from '../use-judgement.ts';
import { Editor, type Mark } from './editor.tsx';
import { Form } from './form.tsx';
import { parsed } from './pointers.ts';

interface SheetProps {
  readonly draft: Draft;
  readonly shown: ShownIntake;
  readonly judging: Judging;
  readonly goTo: { readonly pointer: string; readonly count: number } | undefined;
  readonly children: ReactNode;
  onChange(draft: Draft): void;
  onPlace(pointer: string): void;
}

/** The submission, as text or as a form, and the stored record that it changes. */
export function Sheet({ draft, shown, judging, goTo, children, onChange }: SheetProps) {
  const [isForm, setForm] = useState(false);
  const home = useRef<HTMLElement>(null);
  const { judgement, problem } = judging;
  const marks = useMemo<readonly Mark[]>(
    () =>
      (judgement?.findings ?? []).flatMap(({ places, message, severity }) =>
        places.map(({ pointer }) => ({ pointer, text: message, severity })),
      ),
    [judgement],
  );
  const mistake = problem?.startsWith('The submission is not JSON') ? problem : undefined;
  const value = parsed(draft.submission);
  const isChange = draft.stored !== undefined;
  useEffect(() => {
    if (isForm && goTo) home.current?.querySelector<HTMLElement>(`[data-pointer="${CSS.escape(goTo.pointer)}"]`)?.focus();
  }, [goTo, isForm]);
  const { stored: _stored, itself: _itself, ...fresh } = draft;
  return (
    <section className="sheet" aria-label="Submission" ref={home}>
      <div className="row head">
        <h2>{isChange ? 'Change' : 'Submission'}</h2>
        <fieldset className="switch">
          <legend className="hidden">Edit it as</legend>
          {['JSON', 'Form'].map((mode) => (
            <label key={mode}>
              <input type="radio" name="mode" checked={isForm === (mode === 'Form')} onChange={() => setForm(mode === 'Form')} />
              <span>{mode}</span>
            </label>
          ))}
        </fieldset>
        <label className="inline">
          <input
            type="checkbox"
            checked={isChange}
            onChange={(event) => onChange(event.target.checked ? { ...draft, stored: draft.submission, itself: keyOf(shown) } : fresh)}
          />{' '}
          changes a stored record
        </label>
      </div>
      {children}
      {isForm && value ? (
        <Form
          fields={shown.fields}
          value={value.value}
          marks={marks}
          onChange={(next) => onChange({ ...draft, submission: JSON.stringify(next, null, 2) })}
        />
      ) : isForm ? (
        <p className="hint">The JSON text has a mistake, so that there is no form of it; mend the text first.</p>
      ) : (
        <Editor
          key={shown.name}
          label={isChange ? 'Change as JSON' : 'Submission as JSON'}
          text={draft.submission}
          marks={marks}
          mistake={mistake}
          goTo={goTo}
          onChange={(submission) => onChange({ ...draft, submission })}
        />
      )}
      {draft.stored !== undefined && (
        <>
          <h3>The stored record</h3>
          {shown.storedIn && (
            <label className="inline">
              Its key in {shown.storedIn.collection}{' '}
              <input className="mono" value={draft.itself ?? ''} onChange={(event) => onChange({ ...draft, itself: event.target.value })} />
            </label>
          )}
          <Editor
            key={`${shown.name} stored`}
            label="The stored record as JSON"
            text={draft.stored}
            marks={NO_MARKS}
            mistake={undefined}
            goTo={undefined}
            onChange={(stored) => onChange({ ...draft, stored })}
          />
        </>
      )}
    </section>
  );
}

const NO_MARKS: readonly Mark[] = [];

/** A key to begin with. */
function keyOf({ storedIn }: ShownIntake): string {
  return storedIn ? JSON.stringify(Object.fromEntries(storedIn.key.map((column) => [column, 1]))) : '';
}
