import { Fault, fault, nearest } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import { slotsOf } from './slots.ts';

/** Refuses a text that is no ICU message, or (unless `open`) has a slot that is not among those known. */
export function checkText(message: Texts, where: string, known: readonly string[], open = false): void {
  for (const text of typeof message === 'string' ? [message] : Object.values(message)) {
    let slots: ReadonlySet<string>;
    try {
      slots = slotsOf(text);
    } catch (cause) {
      throw new Fault(`${where}: the message "${text}" is not an ICU message (${(cause as Error).message}).`);
    }
    for (const slot of slots) {
      if (!open && !known.includes(slot)) fault(`${where}: nothing fills {${slot}} in "${text}"; ${nearest(slot, known)}`);
    }
  }
}
