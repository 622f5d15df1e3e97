import { fault, nearest } from '../basics/fault.ts';
import { type EngineId, engineSlots, isEngineId } from './catalogue.ts';
import type { Catalogue } from './catalogues/catalogue.ts';
import { de } from './catalogues/de.ts';
import { SHIPPED } from './catalogues/shipped.ts';
import { checkText } from './check.ts';

/** What no rule or kind of one's own begins with. */
const OURS = new Set(['problem', 'page', 'on-weekdays', 'character-mix']);
const SENTENCES = Object.keys(de.messages);

/** What an intake says of the languages that it speaks. */
interface Speaking {
  readonly name: string;
  readonly languages: object;
  readonly catalogues: readonly Catalogue[];
}

/**
 * Refuses sentences of catalogues of one's own for what there is not, and those that the engine could not say; and a language that the
 * package has, where the engine's own sentences would be English.
 *
 * @param rules the ids of the rules that the intake has, besides the ready-made ones
 */
export function checkCatalogues({ name, languages, catalogues }: Speaking, rules: readonly string[]): void {
  for (const locale of Object.keys(languages)) {
    const isOf = (spoken: string) => locale === spoken || locale.startsWith(`${spoken}-`);
    const shipped = SHIPPED.find((each) => isOf(each.locale))?.locale;
    if (shipped !== undefined && !catalogues.some((catalogue) => isOf(catalogue.locale)))
      fault(
        `Intake "${name}" speaks "${locale}", and the engine's own sentences would be English; add catalogues: [${shipped}], with ${shipped} of jestril/catalogues.`,
      );
  }
  for (const { locale, messages, isOurs } of catalogues) {
    if (isOurs) continue;
    if (typeof locale !== 'string' || typeof messages !== 'object' || messages === null)
      fault(`Intake "${name}": a catalogue is an object such as { locale: 'fr', messages: { … } }.`);
    for (const [id, text] of Object.entries(messages)) {
      const where = `Catalogue "${locale}", "${id}"`;
      const known = [...SENTENCES, ...rules];
      const [start = ''] = id.split('/');
      // What is namespaced may belong to a rule or kind of another intake.
      const isOwn = id.split('/').length > (start === 'readable' ? 2 : 1) && start !== 'too-many';
      if (!known.includes(id) && (!isOwn || OURS.has(start))) fault(`${where}: there is no such sentence; ${nearest(id, known)}`);
      const slots = isEngineId(id) || isEngineId(start) ? engineSlots[(isEngineId(id) ? id : start) as EngineId] : [];
      checkText(text, where, slots, slots.length === 0);
    }
  }
}
