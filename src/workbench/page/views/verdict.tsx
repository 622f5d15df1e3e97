import type { Finding } from '../../../core/basics/verdict.ts';
import type { Judgement } from '../../wire/judged.ts';

interface VerdictProps {
  readonly judgement: Judgement | undefined;
  readonly problem: string | undefined;
  readonly isStale: boolean;
  onPlace(pointer: string): void;
  onWhy(use: string, pointers: readonly string[]): void;
}

const WORDS = { accepted: 'Accepted', rejected: 'Rejected', undecided: 'Undecided' } as const;

/** What the submission comes to, and what was found; each finding leads to its place and to its rule. */
export function Verdict({ judgement, problem, isStale, onPlace, onWhy }: VerdictProps) {
  return (
    <section className={`verdict ${problem ? 'unread' : (judgement?.outcome ?? 'unread')}`} aria-busy={isStale}>
      <h2>
        <span className="word" role="status">
          {problem ? 'Not judged' : judgement ? WORDS[judgement.outcome] : 'Judging …'}
        </span>
        {judgement && !problem && <small>{summaryOf(judgement)}</small>}
      </h2>
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      {judgement && !problem && (
        <ul className="findings">
          {judgement.findings.map((finding) => (
            <li key={`${finding.use} ${finding.places.map(({ pointer }) => pointer).join(' ')}`} className={finding.severity}>
              <p>
                {finding.severity === 'warning' && <b>Warning: </b>}
                {finding.message}
              </p>
              <p className="ways">
                {finding.places.map(({ pointer }) => (
                  <button type="button" key={pointer} onClick={() => onPlace(pointer)} aria-label={`Go to ${placeOf(pointer)}`}>
                    <code>{placeOf(pointer)}</code>
                  </button>
                ))}
                <button
                  type="button"
                  onClick={() =>
                    onWhy(
                      finding.use,
                      finding.places.map(({ pointer }) => pointer),
                    )
                  }
                  aria-label={`Why: ${finding.use}`}
                >
                  why: <code>{finding.use}</code>
                </button>
                <Facts facts={finding.facts} />
              </p>
            </li>
          ))}
          {judgement.open.map((open) => (
            <li key={`${open.use} ${open.pointers.join(' ')}`} className="open">
              <p>
                Not decided: {open.why}.{open.cause && <span className="cause"> {open.cause}</span>}
              </p>
              <p className="ways">
                <button type="button" onClick={() => onWhy(open.use, open.pointers)} aria-label={`Why: ${open.use}`}>
                  why: <code>{open.use}</code>
                </button>
              </p>
            </li>
          ))}
          {judgement.hasMore && <li>There is more; findings are listed up to the limit of the intake.</li>}
        </ul>
      )}
      {judgement?.value !== undefined && !problem && (
        <details className="value">
          <summary>{judgement.changed ? `The whole value; ${changes(judgement.changed)}` : 'The value that the handler gets'}</summary>
          <pre>{judgement.value}</pre>
        </details>
      )}
    </section>
  );
}

function changes(paths: readonly string[]): string {
  return paths.length === 0 ? 'nothing changes' : `${paths.join(', ')} ${paths.length === 1 ? 'changes' : 'change'}`;
}

function placeOf(pointer: string): string {
  return pointer === '' ? 'the whole submission' : pointer;
}

function Facts({ facts }: Pick<Finding, 'facts'>) {
  const all = Object.entries(facts);
  if (all.length === 0) return null;
  return <span className="facts">{all.map(([name, value]) => `${name} ${JSON.stringify(value)}`).join(' · ')}</span>;
}

function summaryOf({ findings, open, reasons, rounds, took }: Judgement): string {
  const count = (outcome: string) => reasons.filter((reason) => reason.outcome === outcome).length;
  const parts = [
    findings.length > 0 && `${findings.length} found`,
    open.length > 0 && `${open.length} open`,
    `${count('held')} held`,
    count('skipped') > 0 && `${count('skipped')} skipped`,
    rounds > 0 && `${rounds} ${rounds === 1 ? 'round' : 'rounds'} of look-ups`,
    `${took < 10 ? took.toFixed(1) : Math.round(took)} ms`,
  ];
  return parts.filter(Boolean).join(', ');
}
