import { useState } from 'react';
import type { Came, CaseRead, CaseState, KeptCase } from '../../wire/cases.ts';
import type { Conflict as CaseConflict, Cases as KeptCases } from '../use-cases.ts';

interface CasesProps {
  readonly cases: KeptCases;
  readonly file: string;
  readonly intake: string;
  readonly hasSecrets: boolean;
  /** Why what is on the page cannot be kept now. */
  readonly hindrance: string | undefined;
  onKeep(name: string): void;
  onOpen(kept: KeptCase): void;
}

/** Submissions that are kept in a file beside the module, and what each comes to now. */
export function Cases({ cases, file, intake, hasSecrets, hindrance, onKeep, onOpen }: CasesProps) {
  const { problem, conflicts } = cases;
  const { cases: kept = [], states = [] } = cases.kept ?? {};
  const [name, setName] = useState('');
  const changed = states.filter(({ isChanged }) => isChanged).length;
  const isTaken = kept.some((each) => each.kept.name === name.trim());
  return (
    <div className="cases">
      <form
        className="row"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() === '' || hindrance) return;
          onKeep(name.trim());
          setName('');
        }}
      >
        <label className="wide">
          Keep this submission as
          <input value={name} onChange={(event) => setName(event.target.value)} placeholder="two nights too many" autoComplete="off" />
        </label>
        <button type="submit" disabled={name.trim() === '' || hindrance !== undefined}>
          {isTaken ? 'Keep over it' : 'Keep'}
        </button>
      </form>
      {hindrance && <p className="hint">{hindrance}</p>}
      {hasSecrets && <p className="hint">It has secret fields: they are kept as they were typed, so type made-up ones.</p>}
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      {conflicts.map((conflict) => (
        <Conflict
          key={conflict.change.name}
          conflict={conflict}
          isThere={kept.some((each) => each.kept.name === conflict.change.name)}
          cases={cases}
        />
      ))}
      {kept.length > 0 && (
        <p className="row tally" role="status">
          <strong className={changed > 0 ? 'rejected' : 'accepted'}>
            {changed > 0 ? `${changed} of ${kept.length} came out otherwise than when kept` : `all ${kept.length} come out as kept`}
          </strong>
          <button type="button" className="quiet" onClick={() => void cases.read()}>
            Run again
          </button>
        </p>
      )}
      <ul>
        {kept.map((each) => (
          <Case
            key={each.kept.name}
            of={each}
            state={states.find((state) => state.name === each.kept.name)}
            isHere={each.kept.intake === intake}
            onOpen={() => onOpen(each.kept)}
            onPut={(put) => void cases.change([{ name: each.kept.name, read: each.read, put }])}
          />
        ))}
      </ul>
      <p className="hint">
        Kept in <code>{file}</code>
      </p>
    </div>
  );
}

interface ConflictProps {
  readonly conflict: CaseConflict;
  /** Somebody has changed it; otherwise it was forgotten. */
  readonly isThere: boolean;
  readonly cases: KeptCases;
}

function Conflict({ conflict, isThere, cases }: ConflictProps) {
  const { name, put } = conflict.change;
  return (
    <div className="problem conflict" role="alert">
      <p>
        “{name}” was {isThere ? 'changed' : 'forgotten'} meanwhile by another page or by hand, and is left so.
      </p>
      <p className="ways">
        <button type="button" onClick={() => void cases.settle(conflict, true)}>
          {put ? 'Keep mine all the same' : 'Forget it all the same'}
        </button>
        <button type="button" onClick={() => void cases.settle(conflict, false)}>
          Leave it so
        </button>
      </p>
    </div>
  );
}

interface CaseProps {
  readonly of: CaseRead;
  readonly state: CaseState | undefined;
  readonly isHere: boolean;
  onOpen(): void;
  onPut(put: Partial<KeptCase> | null): void;
}

function Case({ of: { kept }, state, isHere, onOpen, onPut }: CaseProps) {
  const { came, isProof = false, samples = [] } = kept;
  const now = state?.now;
  const canProve = came.outcome !== 'undecided';
  return (
    <li className={state?.isChanged ? 'changed' : ''}>
      <button type="button" className="open" onClick={onOpen}>
        {kept.name}
      </button>
      {!isHere && <small>{kept.intake}</small>}
      <strong className={came.outcome}>{came.outcome}</strong>
      {state?.isChanged && (
        <div className="otherwise">
          {state.problem && <p className="problem">{state.problem}</p>}
          {now && (
            <>
              <p>
                now <strong className={now.outcome}>{now.outcome}</strong>
              </p>
              <ul>
                {gone(came, now).map((each) => (
                  <li key={each}>
                    no longer <code>{each}</code>
                  </li>
                ))}
                {gone(now, came).map((each) => (
                  <li key={each}>
                    new <code>{each}</code>
                  </li>
                ))}
              </ul>
              <button type="button" className="quiet" onClick={() => onPut({ came: now })}>
                That is right now: keep it so
              </button>
            </>
          )}
        </div>
      )}
      <p className="ways">
        {canProve && (
          <button type="button" aria-pressed={isProof} onClick={() => onPut({ isProof: !isProof })}>
            {isProof ? 'A proof' : 'Make it a proof'}
          </button>
        )}
        {samples.map(({ rule, holds }, index) => (
          <button
            type="button"
            // biome-ignore lint/suspicious/noArrayIndexKey: several samples may be of one rule
            key={index}
            onClick={() => onPut({ samples: samples.filter((_, at) => at !== index) })}
          >
            sample: <code>{rule}</code> {holds ? 'holds' : 'fails'} <span aria-hidden="true">×</span>
            <span className="hidden">, take it away</span>
          </button>
        ))}
        <button type="button" onClick={() => onPut(null)} aria-label={`Forget ${kept.name}`}>
          Forget
        </button>
      </p>
    </li>
  );
}

function gone(before: Came, after: Came): readonly string[] {
  return before.found.filter((each) => !after.found.includes(each));
}
