import { useEffect, useState } from 'react';
import type { Asked } from '../../wire/asked.ts';
import type { Judgement, Turning } from '../../wire/judged.ts';
import type { ShownIntake } from '../../wire/shown.ts';
import { ask, isProblem } from '../client.ts';
import { declaredPath, leavesOf, parsed } from '../submission/pointers.ts';
import { Strip } from './strip.tsx';

interface WhatIfProps {
  readonly asked: Asked;
  readonly shown: ShownIntake;
  readonly judgement: Judgement | undefined;
  readonly loads: number;
  onValue(pointer: string, value: string | number): void;
}

/** The same submission under other circumstances beside it, and a value moved along. */
export function WhatIf(props: WhatIfProps) {
  return (
    <div className="what-if">
      <Beside {...props} />
      <Along {...props} />
    </div>
  );
}

interface Other {
  readonly now: string;
  readonly occasion: string;
  readonly version: string;
}

function Beside({ asked, shown, judgement, loads }: WhatIfProps) {
  const [other, setOther] = useState<Other>({ now: '', occasion: '', version: '' });
  const [there, setThere] = useState<Judgement>();
  const [problem, setProblem] = useState<string>();
  const isOther = Object.values(other).some((text) => text.trim() !== '');
  // biome-ignore lint/correctness/useExhaustiveDependencies: another load of the module judges otherwise
  useEffect(() => {
    if (!isOther) return setThere(undefined);
    const stop = new AbortController();
    const settings = {
      ...asked.settings,
      ...(other.now.trim() && { now: momentOf(other.now) }),
      ...(other.occasion && { occasion: other.occasion }),
    };
    const timer = setTimeout(() => {
      ask('judge', { ...asked, settings }, { signal: stop.signal, ...(other.version.trim() && { version: other.version }) })
        .then((told) => {
          setProblem(isProblem(told) ? told.problem : undefined);
          setThere(isProblem(told) ? undefined : told);
        })
        .catch(() => undefined);
    }, 250);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [asked, other, loads, isOther]);
  const put = (name: keyof Other) => (event: { readonly target: { readonly value: string } }) =>
    setOther({ ...other, [name]: event.target.value });
  return (
    <section aria-label="Other circumstances">
      <h3>What if it were judged …</h3>
      <div className="row">
        <label>
          at another moment
          <input value={other.now} onChange={put('now')} placeholder="2031-05-01" autoComplete="off" />
        </label>
        <label>
          on another occasion
          <select value={other.occasion} onChange={put('occasion')}>
            <option value="">(the same)</option>
            {shown.occasions.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
        <label>
          by another version
          <input value={other.version} onChange={put('version')} placeholder="HEAD~1, or a file" autoComplete="off" />
        </label>
      </div>
      {problem && <p className="problem">{problem}</p>}
      {there && judgement && <Compared here={judgement} there={there} />}
    </section>
  );
}

/** A day alone is its first moment. */
function momentOf(text: string): string {
  const bare = text.trim();
  return /^\d{4}-\d\d-\d\d$/.test(bare) ? `${bare}T00:00:00Z` : bare;
}

function Compared({ here, there }: { readonly here: Judgement; readonly there: Judgement }) {
  const [before, after] = [usesOf(here), usesOf(there)];
  const uses = [...new Set([...before.keys(), ...after.keys()])];
  const different = uses.filter((use) => before.get(use) !== after.get(use));
  return (
    <>
      <p className="pair">
        <strong className={here.outcome}>{here.outcome}</strong> as it is, <strong className={there.outcome}>{there.outcome}</strong> there
        {different.length === 0
          ? '; every rule comes out alike.'
          : `; ${different.length} ${different.length === 1 ? 'rule comes' : 'rules come'} out otherwise.`}
      </p>
      {different.length > 0 && (
        <table>
          <thead>
            <tr>
              <th scope="col">rule</th>
              <th scope="col">as it is</th>
              <th scope="col">there</th>
            </tr>
          </thead>
          <tbody>
            {different.map((use) => (
              <tr key={use}>
                <th scope="row">
                  <code>{use}</code>
                </th>
                <td className={before.get(use)}>{before.get(use) ?? 'not there'}</td>
                <td className={after.get(use)}>
                  {after.get(use) ?? 'not there'}
                  {there.findings.find((finding) => finding.use === use) && (
                    <small> {there.findings.find((finding) => finding.use === use)?.message}</small>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** By use what became of it; findings of the engine itself count as failed. */
function usesOf({ reasons, findings }: Judgement): Map<string, string> {
  const uses = new Map<string, string>(reasons.map(({ use, outcome }) => [use, outcome]));
  for (const { use } of findings) uses.set(use, 'failed');
  return uses;
}

function Along({ asked, shown, loads, onValue }: WhatIfProps) {
  const [pointer, setPointer] = useState('');
  const [turning, setTurning] = useState<Turning>();
  const [problem, setProblem] = useState<string>();
  const value = parsed(asked.submission)?.value;
  const movable = movableIn(shown, value);
  const chosen = movable.includes(pointer) ? pointer : (movable[0] ?? '');
  // biome-ignore lint/correctness/useExhaustiveDependencies: another load of the module judges otherwise
  useEffect(() => {
    if (chosen === '') return setTurning(undefined);
    const stop = new AbortController();
    const timer = setTimeout(() => {
      ask('turn', { ...asked, pointer: chosen }, { signal: stop.signal })
        .then((told) => {
          setProblem(isProblem(told) ? told.problem : undefined);
          setTurning(isProblem(told) ? undefined : told);
        })
        .catch(() => undefined);
    }, 200);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [asked, chosen, loads]);
  if (movable.length === 0) return <p className="hint">The submission has no number and no day to move along.</p>;
  return (
    <section aria-label="Along a value">
      <h3>Where the verdict turns</h3>
      <label className="inline">
        along{' '}
        <select value={chosen} onChange={(event) => setPointer(event.target.value)}>
          {movable.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      </label>
      {problem && <p className="problem">{problem}</p>}
      {turning?.pointer === chosen && <Strip turning={turning} current={leafAt(value, chosen)} onValue={(next) => onValue(chosen, next)} />}
    </section>
  );
}

function movableIn(shown: ShownIntake, value: unknown): string[] {
  const sorts = new Map<string, string>();
  const walk = (fields: ShownIntake['fields']): void => {
    for (const field of fields) {
      sorts.set(field.path, field.sort);
      walk([...(field.inner ?? []), ...(field.item ? [field.item] : []), ...(field.shapes ?? []).flatMap((shape) => shape.fields)]);
    }
  };
  walk(shown.fields);
  return leavesOf(value).flatMap((leaf) => (['number', 'day'].includes(sorts.get(declaredPath(leaf.pointer)) ?? '') ? [leaf.pointer] : []));
}

function leafAt(value: unknown, pointer: string): string | number | undefined {
  const leaf = leavesOf(value).find((each) => each.pointer === pointer)?.value;
  return typeof leaf === 'string' || typeof leaf === 'number' ? leaf : undefined;
}
