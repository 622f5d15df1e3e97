import { shorten, WITHHELD } from '../basics/text.ts';
import type { EntryKey, FieldSteps } from '../plan/plan.ts';
import { addEngineFinding } from './engine-finding.ts';
import { NO_OBJECT, ROOT, type Source } from './raw.ts';
import type { Run } from './run.ts';

/** Undeclared keys of the submission; a million of them are not a million findings. */
export function refuseStrangers(run: Run, fields: FieldSteps, source: Source, indexes: readonly EntryKey[]): void {
  if (!run.settings.refuseStrangers || run.strangersLeft === 0) return;
  const place = fields.home ?? ROOT;
  try {
    for (const key in source) {
      if (fields.keys.has(key) || !Object.hasOwn(source, key)) continue;
      // Under something secret the key may be the secret.
      const shown = place.isSecret ? WITHHELD : shorten(key);
      addEngineFinding(run, 'stranger', [{ place, indexes, key: shown }], { facts: { key: shown } });
      run.strangersLeft -= 1;
      if (run.strangersLeft === 0) return;
    }
  } catch {
    addEngineFinding(run, 'readable', [{ place, indexes }], NO_OBJECT);
  }
}
