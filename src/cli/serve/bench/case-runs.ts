import type { Verdict } from '../../../core/basics/verdict.ts';
import type { Asked } from '../../../workbench/wire/asked.ts';
import type { Came, CaseState, KeptCase } from '../../../workbench/wire/cases.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { judgeSubject, subjectOf } from './judged.ts';
import type { SettingsReader } from './settings-of.ts';

/** What a verdict came to, in short. */
export function cameOf(verdict: Verdict<unknown>): Came {
  const found = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
  return {
    outcome: verdict.outcome,
    found: [
      ...found.map(
        ({ use, places, severity }) =>
          `${use} ${places.map(({ pointer }) => pointer || '/').join(' ')}${severity === 'warning' ? ' (warning)' : ''}`,
      ),
      ...verdict.unsettled.map(({ use, why }) => `${use} (${why})`),
    ].sort(),
  };
}

/** Judges every kept case again. */
export async function runCases(
  cases: readonly KeptCase[],
  intakeNamed: (name: string) => LoadedIntake,
  settings: SettingsReader,
): Promise<readonly CaseState[]> {
  const states: CaseState[] = [];
  for (const kept of cases) states.push(await runCase(kept, intakeNamed, settings));
  return states;
}

async function runCase(kept: KeptCase, intakeNamed: (name: string) => LoadedIntake, settings: SettingsReader): Promise<CaseState> {
  const { name } = kept;
  try {
    const intake = intakeNamed(kept.intake);
    const asked = askedOf(kept);
    const { options } = await settings.read(intake, asked.settings);
    const now = cameOf(await judgeSubject(intake, subjectOf(asked), options));
    const isChanged = now.outcome !== kept.came.outcome || now.found.join('\n') !== kept.came.found.join('\n');
    return { name, now, isChanged };
  } catch (cause) {
    return { name, problem: (cause as Error).message, isChanged: true };
  }
}

/** A kept case as the page asks for it. */
export function askedOf({ intake, submission, stored, itself, settings: { given, ...settings } }: KeptCase): Asked {
  return {
    intake,
    submission: JSON.stringify(submission),
    ...(stored !== undefined && { stored: JSON.stringify(stored) }),
    ...(itself !== undefined && { itself: JSON.stringify(itself) }),
    settings: { ...settings, ...(given !== undefined && { given: JSON.stringify(given) }) },
  };
}
