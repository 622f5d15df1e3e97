import { localText } from '../core/basics/moments.ts';
import type { Finding } from '../core/basics/verdict.ts';
import { planOf } from '../core/intake.ts';
import { secretsOf, segmentsOf, stepsAt } from './steps-at.ts';

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
  const isSecret = secretsOf(intake);
  const local = localOf(intake);
  // What was typed is shown as it was; what is stored as a control takes it.
  const pairs =
    Symbol.iterator in typed
      ? [...(typed as Iterable<readonly [string, unknown]>)]
      : pairsOf(typed).map(([name, value]): [string, unknown] => [name, local(pointerOfName(name), value)]);
  const values = new Map<string, string[]>();
  const entries: [string, string][] = [];
  for (const [name, value] of pairs) {
    const pointer = pointerOfName(name);
    if ((typeof value !== 'string' && typeof value !== 'number' && typeof value !== 'boolean') || isSecret(pointer)) continue;
    entries.push([name, String(value)]);
    const known = values.get(pointer);
    if (known) known.push(String(value));
    else values.set(pointer, [String(value)]);
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

const ROW = /^(?:0|[1-9]\d{0,8})$/;

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
    if (ROW.test(row)) rows.add(Number(row));
  }
  return [...rows].sort((a, b) => a - b).slice(0, most);
}

/** `crew[0][name]` and `crew.0.name` are the same place: `/crew/0/name`. */
export function pointerOfName(name: string): string {
  return `/${name
    .replace(/\[\]$/, '')
    .replaceAll(/\[([^[\]]*)\]/g, '.$1')
    .replaceAll('~', '~0')
    .replaceAll('/', '~1')
    .replaceAll('.', '/')}`;
}

function pairsOf(value: object, prefix = ''): [string, unknown][] {
  return Object.entries(value).flatMap(([name, inner]): [string, unknown][] =>
    typeof inner === 'object' && inner !== null ? pairsOf(inner as object, `${prefix}${name}.`) : [[`${prefix}${name}`, inner]],
  );
}

/** Moments as the clocks of the intake's zone show them, for controls of the type `datetime-local`. */
function localOf(intake: { readonly name: string }): (pointer: string, value: unknown) => unknown {
  const { fields, zone } = planOf(intake);
  if (zone === undefined) return (_pointer, value) => value;
  return (pointer, value) => {
    if (typeof value !== 'string') return value;
    const [found] = stepsAt(fields, segmentsOf(pointer));
    return found?.step.kind.formIn ? localText(value, zone) : value;
  };
}
