import type { Texts } from '../basics/text.ts';
import type { Finding, Severity } from '../basics/verdict.ts';
import { type EngineId, inCatalogues, sentences } from '../messages/catalogue.ts';
import type { Plan, UseInfo } from '../plan/plan.ts';
import type { Failure, Spot } from './failures.ts';
import type { Run } from './run.ts';

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

const known = new WeakMap<Plan, Map<string, UseInfo>>();

/**
 * What is common to the engine's findings with one id at one place. The intake may have other words for it. It is the same each time, so
 * that its sentence is compiled once.
 */
export function engineInfo(run: Run, id: EngineId, path: string, { says, entry = id, severity = 'error' }: EngineFinding = {}): UseInfo {
  const { plan } = run;
  let infos = known.get(plan);
  if (!infos) {
    infos = new Map();
    known.set(plan, infos);
  }
  const use = `${id}@${path}`;
  const key = `${use} ${entry} ${severity} ${says !== undefined}`;
  let info = infos.get(key);
  if (!info) {
    info = { rule: id, use, severity, isTrial: false, order: -1, messages: messagesFor(plan, id, use, says, entry) };
    infos.set(key, info);
  }
  return info;
}

/** Of a kind the entry tells what it says: `readable/day`. */
function messagesFor({ messages, catalogues }: Plan, id: EngineId, use: string, says: Texts | undefined, entry: string): Texts[] {
  // What an intake says of a field cannot be said of a submission that has none.
  const own = use.endsWith('@') ? [] : [messages[use], messages[id]].filter((text) => text !== undefined);
  return [...own, says ?? sentences[id], ...inCatalogues(catalogues, entry)];
}

/** Adds a finding of the engine itself, which blames these places. */
export function addEngineFinding(run: Run, id: EngineId, spots: readonly Spot[], more: EngineFinding = {}): void {
  const place = spots[0]?.place;
  run.fail(engineInfo(run, id, place?.path ?? '', more), spots, more.facts ?? {}, more.words ?? {}, { field: place?.label ?? '' });
}
