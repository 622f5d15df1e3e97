import type { Finding } from '../core/basics/verdict.ts';
import { planOf } from '../core/intake.ts';
import { isRow, pointerOfName, segmentsOf } from './names.ts';
import { fieldValues, namedValues } from './sent.ts';
import { stepsAt } from './steps-at.ts';

/** What a page shows of a form: by the names of its controls. */
export interface ShownForm {
  /** What was typed under a name; the last of several. Empty for secrets, and for what was not sent. */
  value(name: string): string;
  /** All that was sent under a name, such as several ticks. */
  values(name: string): readonly string[];
  /**
   * The numbers of the rows of a list that were sent, in their order: those to draw, whatever numbers a sender has written. As many as the
   * list takes at most.
   */
  rows(pointer: string): readonly number[];
  /** What to mend at a field, by its pointer (`/crew/0/name`); findings stand at their first place. */
  messages(pointer: string): readonly string[];
  /** Whether some finding blames the field. */
  isBlamed(pointer: string): boolean;
  /** Everything that was sent, by name, without secrets and files. */
  readonly entries: readonly (readonly [name: string, value: string])[];
  readonly findings: readonly Finding[];
}

/**
 * What a page with a form needs: the values typed and the findings beside them. Secrets are never among the values.
 *
 * @param intake whose fields these are
 * @param typed pairs of name and text as they were sent, or a stored value to begin with
 */
export function shownForm(
  intake: { readonly name: string },
  typed: Iterable<readonly [string, unknown]> | object = [],
  findings: readonly Finding[] = [],
): ShownForm {
  // What was typed is shown as it was; what is stored as a control takes it.
  const sent = Symbol.iterator in typed ? namedValues(intake, typed as Iterable<readonly [string, unknown]>) : fieldValues(intake, typed);
  const values = new Map<string, string[]>();
  const entries: [string, string][] = [];
  for (const { name, pointer, value, of: list } of sent) {
    if (typeof value !== 'string' && typeof value !== 'number' && typeof value !== 'boolean') continue;
    entries.push([name, String(value)]);
    for (const place of list === undefined ? [pointer] : [pointer, list]) {
      const known = values.get(place);
      if (known) known.push(String(value));
      else values.set(place, [String(value)]);
    }
  }
  const of = (name: string) => values.get(pointerOfName(name)) ?? [];
  return {
    value: (name) => of(name).at(-1) ?? '',
    values: of,
    rows: (pointer) => rowsIn(intake, pointer, values.keys()),
    messages: (pointer) => findings.filter(({ places }) => places[0]?.pointer === pointer).map(({ message }) => message),
    isBlamed: (pointer) => findings.some(({ places }) => places.some((place) => place.pointer === pointer)),
    entries,
    findings,
  };
}

function rowsIn(intake: { readonly name: string }, pointer: string, pointers: Iterable<string>): number[] {
  const [list] = stepsAt(planOf(intake).fields, segmentsOf(pointer));
  if (!list) return [];
  const told = list.step.checks.flatMap(({ definition, takes }) => (definition.countsOnly ? [takes.max] : []));
  const most = Math.min(list.step.most, ...told.filter((max) => typeof max === 'number'));
  const rows = new Set<number>();
  for (const each of pointers) {
    if (!each.startsWith(`${pointer}/`)) continue;
    const end = each.indexOf('/', pointer.length + 1);
    const row = each.slice(pointer.length + 1, end < 0 ? undefined : end);
    if (isRow(row)) rows.add(Number(row));
  }
  return [...rows].sort((a, b) => a - b).slice(0, most);
}
