import type { Verdict } from '../../core/basics/verdict.ts';
import type { Datum, Origin } from '../reading/data.ts';

/** A verdict in one line of a result: which row it is of, where that stands, and what was found. */
export interface VerdictLine {
  /** Counted from 1 through all that was read. */
  readonly row: number;
  readonly file: string;
  readonly line?: number;
  readonly entry?: number;
  readonly outcome: 'accepted' | 'rejected' | 'undecided' | 'unreadable';
  readonly findings?: readonly {
    readonly use: string;
    readonly at: readonly string[];
    readonly message: string;
    readonly severity?: 'warning';
  }[];
  readonly unsettled?: readonly { readonly use: string; readonly why: string }[];
  readonly problem?: string;
}

/** The line of a row, with its end. */
export function verdictLine(row: number, { origin, unreadable }: Datum, verdict: Verdict<unknown> | undefined): string {
  const where = { row, ...origin };
  if (!verdict) return `${JSON.stringify({ ...where, outcome: 'unreadable', problem: unreadable ?? '' } satisfies VerdictLine)}\n`;
  const { outcome, unsettled } = verdict;
  const findings = outcome === 'rejected' ? verdict.findings : verdict.warnings;
  // Most lines are of this sort, and are written by the million.
  if (findings.length + unsettled.length === 0 && outcome === 'accepted') return acceptedLine(row, origin);
  const line: VerdictLine = {
    ...where,
    outcome,
    ...(findings.length > 0 && {
      findings: findings.map(({ use, places, message, severity }) => ({
        use,
        at: places.map(({ pointer }) => pointer),
        message,
        ...(severity === 'warning' && { severity }),
      })),
    }),
    ...(unsettled.length > 0 && { unsettled: unsettled.map(({ use, why }) => ({ use, why })) }),
  };
  return `${JSON.stringify(line)}\n`;
}

let lastFile: readonly [file: string, text: string] = ['', '""'];

function acceptedLine(row: number, { file, line, entry }: Origin): string {
  if (lastFile[0] !== file) lastFile = [file, JSON.stringify(file)];
  const place = line === undefined ? (entry === undefined ? '' : `,"entry":${entry}`) : `,"line":${line}`;
  return `{"row":${row},"file":${lastFile[1]}${place},"outcome":"accepted"}\n`;
}
