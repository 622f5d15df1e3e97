import { type FormEvent, useState } from 'react';
import type { Counts } from '../../../screening/summary.ts';
import type { Settings } from '../../wire/asked.ts';
import type { Alike, Import as Imported, ImportedRow, ImportedRule } from '../../wire/imports.ts';
import type { Judgement } from '../../wire/judged.ts';
import { importAlike, importedRow, isProblem, openImport } from '../client.ts';

interface ImportProps {
  readonly intake: string;
  readonly settings: Settings;
  /** Of the row that is open, as it is judged now. */
  readonly judgement: Judgement | undefined;
  /** What is known of an import while another tab is open. */
  readonly seen: SeenImport;
  onSeen(seen: SeenImport): void;
  onRow(row: ImportedRow): void;
}

export interface SeenImport {
  readonly path: string;
  readonly opened?: Imported;
  readonly row?: ImportedRow;
  readonly problem?: string;
}

/** The verdicts of a screening or a check: what was found by rule, any row to be judged again here, and its like by another version. */
export function Import({ intake, settings, judgement, seen, onSeen, onRow }: ImportProps) {
  const { path, opened, row, problem } = seen;
  const open = async (event: FormEvent) => {
    event.preventDefault();
    const told = await openImport(path.trim());
    onSeen(isProblem(told) ? { path, problem: told.problem } : { path, opened: told });
  };
  const show = async (number: number) => {
    const told = await importedRow({ path: path.trim(), row: number, intake });
    if (isProblem(told)) return onSeen({ path, ...(opened && { opened }), problem: told.problem });
    onSeen({ path, ...(opened && { opened }), row: told });
    onRow(told);
  };
  return (
    <div className="import">
      <form className="row" onSubmit={(event) => void open(event)}>
        <label className="wide">
          The folder of a screening, or the file of a check (--format json)
          <input value={path} onChange={(event) => onSeen({ path: event.target.value })} autoComplete="off" spellCheck={false} />
        </label>
        <button type="submit" disabled={path.trim() === ''}>
          Open
        </button>
      </form>
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      {opened && (
        <>
          <Tally opened={opened} />
          <RowNumber most={opened.rows} onShow={show} />
          {row && <OpenedRow row={row} judgement={judgement} />}
          <Rules opened={opened} intake={intake} settings={settings} onShow={show} />
        </>
      )}
    </div>
  );
}

const OUTCOMES = ['accepted', 'undecided', 'rejected', 'unreadable'] as const satisfies (keyof Counts)[];
const many = (count: number) => count.toLocaleString('en');

/** What became of the rows, all together and from the first to the last. */
function Tally({ opened: { rows, counts, columns } }: { readonly opened: Imported }) {
  const sums = columns.map((column) => OUTCOMES.reduce((sum, outcome) => sum + column[outcome], 0));
  let before = 0;
  return (
    <figure className="tally">
      <figcaption role="status">
        <strong>{many(rows)} rows:</strong>{' '}
        {OUTCOMES.filter((outcome) => counts[outcome] > 0).map((outcome) => (
          <span key={outcome} className={`key ${outcome}`}>
            {many(counts[outcome])} {outcome}
          </span>
        ))}
      </figcaption>
      <svg viewBox={`0 0 ${rows} 100`} preserveAspectRatio="none" aria-hidden="true">
        {columns.map((column, at) => {
          const sum = sums[at] as number;
          const from = before;
          before += sum;
          let high = 0;
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a part of the rows is nothing but its place
            <g key={at}>
              {OUTCOMES.map((outcome) => {
                const share = (column[outcome] / sum) * 100;
                high += share;
                return share > 0 && <rect key={outcome} className={outcome} x={from} y={high - share} width={sum} height={share} />;
              })}
            </g>
          );
        })}
      </svg>
      <p className="hint ends">
        <span>row 1</span>
        <span>{many(rows)}</span>
      </p>
    </figure>
  );
}

function RowNumber({ most, onShow }: { readonly most: number; onShow(row: number): void }) {
  const [typed, setTyped] = useState('');
  const number = Number(typed.replaceAll(/[\s,.]/g, ''));
  const isRow = /\d/.test(typed) && Number.isInteger(number) && number >= 1 && number <= most;
  return (
    <form
      className="row"
      onSubmit={(event) => {
        event.preventDefault();
        if (isRow) onShow(number);
      }}
    >
      <label>
        Row, 1 to {many(most)}
        <input value={typed} onChange={(event) => setTyped(event.target.value)} inputMode="numeric" autoComplete="off" />
      </label>
      <button type="submit" disabled={!isRow}>
        Why?
      </button>
    </form>
  );
}

/** A row as the import has judged it, beside what it comes to here, by itself and by the rules as they are now. */
function OpenedRow({ row, judgement }: { readonly row: ImportedRow; readonly judgement: Judgement | undefined }) {
  const here = new Set(judgement?.findings.map(({ use }) => use));
  const gone = row.findings.filter(({ use }) => judgement && !here.has(use));
  return (
    <section className="opened" aria-label={`Row ${row.row}`}>
      <h3>
        Row {many(row.row)} <small>{row.place}</small> <strong className={row.outcome}>{row.outcome}</strong>
      </h3>
      <ul>
        {row.findings.map(({ use, message, at }) => (
          <li key={`${use} ${at.join(' ')}`}>
            {message} <code>{use}</code>
          </li>
        ))}
        {row.open.map(({ use, why }) => (
          <li key={`${use} ${why}`}>
            Not decided: <code>{use}</code> ({why})
          </li>
        ))}
      </ul>
      {row.doubt && <p className="problem">{row.doubt}</p>}
      <p className="hint">
        It is at the left now, judged by itself.
        {gone.length > 0 &&
          ` ${gone.map(({ use }) => use).join(', ')} ${gone.length === 1 ? 'does' : 'do'} not find it here: other rows, other records, or other rules.`}
      </p>
    </section>
  );
}

interface RulesProps {
  readonly opened: Imported;
  readonly intake: string;
  readonly settings: Settings;
  onShow(row: number): void;
}

function Rules({ opened, intake, settings, onShow }: RulesProps) {
  const [version, setVersion] = useState('');
  const [told, setTold] = useState<{ readonly rule: ImportedRule; readonly answer: Alike | string }>();
  const most = Math.max(1, ...opened.rules.map(({ count }) => count));
  const again = async (rule: ImportedRule) => {
    setTold({ rule, answer: 'Judging …' });
    const by = version.trim();
    const { use, severity } = rule;
    const answer = await importAlike({ path: opened.path, use, severity, intake, settings, ...(by !== '' && { version: by }) });
    setTold({ rule, answer: isProblem(answer) ? answer.problem : answer });
  };
  if (opened.rules.length === 0) return <p className="hint">Nothing was found.</p>;
  return (
    <>
      <h3>What was found, by rule</h3>
      <label>
        By another version: a revision, or a module of this folder
        <input
          value={version}
          onChange={(event) => setVersion(event.target.value)}
          placeholder="HEAD; nothing for the rules as they are now"
          autoComplete="off"
          spellCheck={false}
        />
      </label>
      <ul className="found">
        {opened.rules.map((rule) => (
          <li key={`${rule.severity} ${rule.use}`}>
            <FoundRule rule={rule} most={most} onShow={onShow} onAgain={() => void again(rule)} />
            {told?.rule === rule && <Again answer={told.answer} onShow={onShow} />}
          </li>
        ))}
      </ul>
    </>
  );
}

interface FoundRuleProps {
  readonly rule: ImportedRule;
  readonly most: number;
  onShow(row: number): void;
  onAgain(): void;
}

function FoundRule({ rule, most, onShow, onAgain }: FoundRuleProps) {
  const { use, severity, count, message, rows } = rule;
  return (
    <>
      <p>
        <b>{many(count)}</b> <code>{use}</code> {severity !== 'error' && <small>{severity === 'open' ? 'not decided' : severity}</small>}
      </p>
      <svg viewBox="0 0 100 1" preserveAspectRatio="none" aria-hidden="true" className="bar">
        <rect className={severity} width={Math.max(0.4, (count / most) * 100)} height="1" />
      </svg>
      <p className="hint">{message}</p>
      <p className="ways">
        {rows.slice(0, 5).map((row) => (
          <button type="button" key={row} onClick={() => onShow(row)} aria-label={`Row ${row}: why?`}>
            Row {row}
          </button>
        ))}
        <button type="button" onClick={onAgain} aria-label={`Judge its like again: ${use}`}>
          Judge its like again
        </button>
      </p>
    </>
  );
}

/** What has become of rows that were judged again. */
function Again({ answer, onShow }: { readonly answer: Alike | string; onShow(row: number): void }) {
  if (typeof answer === 'string') return <p className="hint">{answer}</p>;
  const groups = [
    ['found by it again', answer.same],
    ['rejected by other rules alone', answer.other],
    ['accepted', answer.accepted],
    ['undecided', answer.open],
  ] as const;
  return (
    <ul className="again" aria-live="polite">
      <li>
        Of the first {many(answer.judged)} {answer.judged === 1 ? 'row' : 'rows'}, each by itself
        {answer.unread > 0 && ` (${many(answer.unread)} more cannot be read)`}:
      </li>
      {answer.doubt && <li className="problem">{answer.doubt}</li>}
      {groups
        .filter(([, rows]) => rows.length > 0)
        .map(([what, rows]) => (
          <li key={what}>
            <b>{many(rows.length)}</b> {what}, such as{' '}
            {rows.slice(0, 3).map((row) => (
              <button type="button" className="quiet" key={row} onClick={() => onShow(row)} aria-label={`Row ${row}: why?`}>
                Row {row}
              </button>
            ))}
          </li>
        ))}
    </ul>
  );
}
