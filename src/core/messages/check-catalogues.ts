import { fault, nearest } from '../basics/fault.ts';
import { type EngineId, engineIds, engineSlots, isEngineId } from './catalogue.ts';
import type { Catalogue } from './catalogues/catalogue.ts';
import { checkText } from './check.ts';
import { ENGINE_ENTRIES, RULE_IDS } from './ids.ts';

/**
 * Refuses sentences of catalogues of one's own for what there is not, and those that the engine could not say.
 *
 * @param rules the ids of the rules that the intake has, besides the ready-made ones
 */
export function checkCatalogues(intake: string, catalogues: readonly Catalogue[], rules: readonly string[]): void {
  for (const { locale, messages, isOurs } of catalogues) {
    if (isOurs) continue;
    if (typeof locale !== 'string' || typeof messages !== 'object' || messages === null)
      fault(`Intake "${intake}": a catalogue is an object such as { locale: 'fr', messages: { … } }.`);
    for (const [id, text] of Object.entries(messages)) {
      const where = `Catalogue "${locale}", "${id}"`;
      const known = [...engineIds, ...RULE_IDS, ...ENGINE_ENTRIES, ...rules];
      const [start = ''] = id.split('/');
      // What is namespaced may belong to a rule or kind of another intake.
      const isOwn = id.split('/').length > (start === 'readable' ? 2 : 1) && start !== 'too-many';
      if (!isOwn && !known.includes(id)) fault(`${where}: there is no such sentence; ${nearest(id, known)}`);
      const slots = isEngineId(id) || isEngineId(start) ? engineSlots[(isEngineId(id) ? id : start) as EngineId] : [];
      checkText(text, where, slots, slots.length === 0);
    }
  }
}
