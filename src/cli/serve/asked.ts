import { choice, group, intake, list, text, type Verdict, whole } from '../../index.ts';
import { Misuse } from '../basics/misuse.ts';

// What may be asked over HTTP by anybody with the key, as intakes: what is something else is told so, in their words.

const settings = group('settings', {
  locale: text('locale'),
  as: choice('as', ['json', 'form']),
  report: choice('report', ['everything', 'firstOfEach', 'firstOfAll']),
  records: text('records').blankAllowed(),
  occasion: text('occasion').orAbsent(),
  now: text('now').orAbsent(),
  given: text('given').orAbsent(),
});
const asked = {
  intake: text('intake').blankAllowed(),
  submission: text('submission').blankAllowed(),
  stored: text('stored').orAbsent(),
  itself: text('itself').orAbsent(),
  settings,
};
const version = text('version').orAbsent();

/** The calls of the process with the module, or with another version of it, that a page may make by name. */
export const CALLS: Intakes = {
  describe: intake('describe', { intake: asked.intake, locale: text('locale'), now: text('now').orAbsent(), version }),
  judge: intake('judge', { ...asked, version }),
  answers: intake('answers', { ...asked, address: text('address').orAbsent() }),
  turn: intake('turn', { ...asked, pointer: text('pointer').blankAllowed() }),
  pattern: intake('pattern', {
    source: text('source').blankAllowed(),
    flags: text('flags').blankAllowed(),
    texts: list('texts', text('text').blankAllowed()),
  }),
  sample: intake('sample', { ...asked, use: text('use').blankAllowed(), entry: text('entry').orAbsent() }),
};

export const IMPORTS = {
  open: intake('open', { path: text('path') }),
  row: intake('row', { path: text('path'), row: whole('row'), intake: asked.intake }),
  alike: intake('alike', {
    path: text('path'),
    use: text('use'),
    severity: choice('severity', ['error', 'warning', 'open']),
    intake: asked.intake,
    settings,
    version,
  }),
};

export const CHANGES = intake('changes', {
  changes: list(
    'changes',
    group('change', {
      name: text('name').blankAllowed(),
      read: text('read').orAbsent(),
      // Whatever members a case has, they are kept.
      put: group('put', {}).orAbsent(),
      without: list('without', text('member')).orAbsent(),
    }),
  ),
});

export const PASTED = intake('pasted', { text: text('text').blankAllowed() });

interface Judges {
  judgeLocally(submission: unknown): Verdict<unknown>;
}
interface Intakes {
  readonly [name: string]: Judges;
}

/** @throws Misuse for what an intake does not accept */
export function checkAsked(of: Judges, value: unknown): void {
  const verdict = of.judgeLocally(value);
  if (verdict.outcome === 'rejected') throw new Misuse(verdict.findings[0]?.message ?? 'That cannot be asked.');
}
