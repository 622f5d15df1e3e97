import type { Settings } from '../wire/asked.ts';
import type { Came, KeptCase } from '../wire/cases.ts';
import type { Judgement } from '../wire/judged.ts';
import type { ShownIntake } from '../wire/shown.ts';
import type { Draft } from './drafts.ts';
import { parsed } from './submission/pointers.ts';

/** The members of a case that a draft may not have, and a case that is made anew loses. */
export const WHERE_CHANGED = ['stored', 'itself', 'samples'] as const;

/** What is on the page, as a case; nothing while there is no verdict of it. */
export function caseOf(
  name: string,
  draft: Draft,
  settings: Settings,
  { given: declared }: ShownIntake,
  judgement: Judgement | undefined,
): KeptCase | undefined {
  const submission = parsed(draft.submission);
  if (!submission || !judgement) return undefined;
  const given = settings.given === undefined || declared.length === 0 ? undefined : parsed(settings.given)?.value;
  const { given: _, ...rest } = settings;
  return {
    name,
    intake: draft.intake,
    submission: submission.value,
    ...(draft.stored !== undefined && { stored: parsed(draft.stored)?.value }),
    ...(draft.stored !== undefined && draft.itself && { itself: parsed(draft.itself)?.value }),
    // A case that is judged by the clock would come out otherwise some day.
    settings: { ...rest, now: judgement.now, ...(given !== undefined && { given }) },
    came: cameOf(judgement),
  };
}

function cameOf({ outcome, findings, open }: Judgement): Came {
  const found = [
    ...findings.map(
      ({ use, places, severity }) =>
        `${use} ${places.map(({ pointer }) => pointer || '/').join(' ')}${severity === 'warning' ? ' (warning)' : ''}`,
    ),
    ...open.map(({ use, code }) => `${use} (${code})`),
  ];
  return { outcome, found: found.sort() };
}

/** A case as it is opened on the page. */
export function opened({ intake, submission, stored, itself, settings: { given, ...rest } }: KeptCase): {
  readonly draft: Draft;
  readonly settings: Settings;
} {
  return {
    draft: {
      intake,
      submission: JSON.stringify(submission, null, 2),
      ...(stored !== undefined && { stored: JSON.stringify(stored, null, 2) }),
      ...(itself !== undefined && { itself: JSON.stringify(itself) }),
    },
    settings: { ...rest, ...(given !== undefined && { given: JSON.stringify(given, null, 2) }) },
  };
}
