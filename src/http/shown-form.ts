import { planOf } from '../core/intake.ts';
import type { FieldStep } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import type { Finding } from '../core/verdict.ts';

/** What a page shows of a form: by the names of its controls. */
export interface ShownForm {
  /** What was typed under a name; the last of several. Empty for secrets, and for what was not sent. */
  value(name: string): string;
  /** All that was sent under a name, such as several ticks. */
  values(name: string): readonly string[];
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
  const pairs = Symbol.iterator in typed ? [...(typed as Iterable<readonly [string, unknown]>)] : pairsOf(typed);
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
    messages: (pointer) => findings.filter(({ places }) => places[0]?.pointer === pointer).map(({ message }) => message),
    isBlamed: (pointer) => findings.some(({ places }) => places.some((place) => place.pointer === pointer)),
    entries,
    findings,
  };
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

const secrets = new WeakMap<object, (pointer: string) => boolean>();

/** Whether a pointer leads to a secret field, or into one; worked out once for each intake. */
function secretsOf(intake: { readonly name: string }): (pointer: string) => boolean {
  const known = secrets.get(intake) ?? findSecrets(intake);
  secrets.set(intake, known);
  return known;
}

function findSecrets(intake: { readonly name: string }): (pointer: string) => boolean {
  const secret: string[] = [];
  walkSteps(planOf(intake).fields, ({ place }: FieldStep) => {
    if (place.isSecret) secret.push(place.path);
  });
  const expressions = secret.map(
    (path) =>
      new RegExp(
        `^/${path
          .split('.')
          .map((part) => (part === '*' ? '[^/]+' : part.replaceAll(/[\\^$*+?.()|[\]{}/]/g, '\\$&')))
          .join('/')}(/|$)`,
      ),
  );
  return (pointer) => expressions.some((expression) => expression.test(pointer));
}
