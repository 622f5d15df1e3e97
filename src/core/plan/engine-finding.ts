import { type EngineId, inCatalogues, sentences } from '../messages/catalogue.ts';
import type { Severity } from '../rules/use.ts';
import type { Texts } from '../text.ts';
import type { Finding } from '../verdict.ts';
import type { UseInfo } from './plan.ts';
import type { Failure, Run, Spot } from './run.ts';

/** What a finding of the engine itself may have besides its id and its places. */
export interface EngineFinding {
  readonly facts?: Finding['facts'];
  readonly words?: Failure['words'];
  /** Said instead of the engine's own sentence, where a kind speaks for itself. */
  readonly says?: Texts;
  /** The catalogues' entry, where it is not the id. */
  readonly entry?: string;
  readonly severity?: Severity;
}

/** What is common to the engine's findings with one id at one place. The intake may have other words for it. */
export function engineInfo(run: Run, id: EngineId, path: string, { says, entry = id, severity = 'error' }: EngineFinding = {}): UseInfo {
  const { messages, catalogues } = run.plan;
  const use = `${id}@${path}`;
  const own = [messages[use], messages[id]].filter((text) => text !== undefined);
  return {
    rule: id,
    use,
    severity,
    isTrial: false,
    order: -1,
    messages: [...own, says ?? sentences[id], ...inCatalogues(catalogues, entry)],
  };
}

/** Adds a finding of the engine itself, which blames these places. */
export function addEngineFinding(run: Run, id: EngineId, spots: readonly Spot[], more: EngineFinding = {}): void {
  const place = spots[0]?.place;
  run.fail(engineInfo(run, id, place?.path ?? '', more), spots, more.facts ?? {}, more.words ?? {}, { field: place?.label ?? '' });
}
