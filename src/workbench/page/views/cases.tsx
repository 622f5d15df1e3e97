import { useState } from 'react';
import type { Came, CaseState, KeptCase, ModuleState } from '../../wire.ts';
import type { KeptCases } from '../client.ts';

interface CasesProps {
  readonly kept: KeptCases | undefined;
  readonly problem: string | undefined;
  readonly module: ModuleState;
  readonly intake: string;
  readonly hasSecrets: boolean;
  /** Why what is on the page cannot be kept now. */
  readonly hindrance: string | undefined;
  onKeep(name: string): void;
  onOpen(kept: KeptCase): void;
  onChange(cases: readonly KeptCase[]): void;
  onRun(): void;
}

/** Submissions that are kept in a file beside the module, and what each comes to now. */
export function Cases(props: CasesProps) {
  const { kept, problem, module, hasSecrets, hindrance, onKeep, onOpen, onChange, onRun } = props;
  const [name, setName] = useState('');
  const cases = kept?.cases ?? [];
  const changed = kept?.states.filter(({ isChanged }) => isChanged).length ?? 0;
  const isTaken = cases.some((each) => each.name === name.trim());
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
      {problem && <p className="problem">{problem}</p>}
      {cases.length > 0 && (
        <p className="row tally" role="status">
          <strong className={changed > 0 ? 'rejected' : 'accepted'}>
            {changed > 0 ? `${changed} of ${cases.length} came out otherwise than when kept` : `all ${cases.length} come out as kept`}
          </strong>
          <button type="button" className="quiet" onClick={onRun}>
            Run again
          </button>
        </p>
      )}
      <ul>
        {cases.map((each) => (
          <Case
            key={each.name}
            kept={each}
            state={kept?.states.find((state) => state.name === each.name)}
            isHere={each.intake === props.intake}
            onOpen={() => onOpen(each)}
            onPut={(next) => onChange(cases.flatMap((other) => (other === each ? (next ? [next] : []) : [other])))}
          />
        ))}
      </ul>
      <p className="hint">
        Kept in <code>{module.casesFile}</code>
      </p>
    </div>
  );
}

interface CaseProps {
  readonly kept: KeptCase;
  readonly state: CaseState | undefined;
  readonly isHere: boolean;
  onOpen(): void;
  onPut(kept: KeptCase | undefined): void;
}

function Case({ kept, state, isHere, onOpen, onPut }: CaseProps) {
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
              <button type="button" className="quiet" onClick={() => onPut({ ...kept, came: now })}>
                That is right now: keep it so
              </button>
            </>
          )}
        </div>
      )}
      <p className="ways">
        {canProve && (
          <button type="button" aria-pressed={isProof} onClick={() => onPut({ ...kept, isProof: !isProof })}>
            {isProof ? 'A proof' : 'Make it a proof'}
          </button>
        )}
        {samples.map(({ rule, holds }, index) => (
          <button
            type="button"
            // biome-ignore lint/suspicious/noArrayIndexKey: several samples may be of one rule
            key={index}
            onClick={() => onPut({ ...kept, samples: samples.filter((_, at) => at !== index) })}
            aria-label={`No longer a sample of ${rule}`}
          >
            sample: <code>{rule}</code> {holds ? 'holds' : 'fails'} ×
          </button>
        ))}
        <button type="button" onClick={() => onPut(undefined)} aria-label={`Forget ${kept.name}`}>
          Forget
        </button>
      </p>
    </li>
  );
}

function gone(before: Came, after: Came): readonly string[] {
  return before.found.filter((each) => !after.found.includes(each));
}
