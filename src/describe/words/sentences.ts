import type { Circumstances } from '../../core/basics/verdict.ts';
import type { Definition, Facts, Takes } from '../../core/declared/rule.ts';
import { SHIPPED } from '../../core/messages/catalogues/shipped.ts';
import type { Words } from '../../core/messages/catalogues/words.ts';
import { renderGenerally, textIn } from '../../core/messages/render.ts';
import { byCondition } from '../../core/plan/by-condition.ts';
import type { ConditionPlan, FactPlan, PlaceSpec, ReadsCondition, RolePlan, UseInfo } from '../../core/plan/plan.ts';
import { factsOf } from '../../core/run/facts.ts';

/** What of a use its sentence is made of. */
export interface Sayable extends UseInfo {
  readonly definition: Definition;
  readonly takes: Takes;
  readonly facts: FactPlan;
}

/** What only a submission or the store can fill, by name. */
function named(name: string): string {
  return `‹${name}›`;
}

/**
 * The sentence of a use, from the message that its findings have: the numbers are those that are checked.
 *
 * @param read an example of what it reads: some sentences depend on the kind of it
 */
export function sentenceOf(
  use: Sayable,
  blamed: readonly PlaceSpec[],
  read: { readonly [role: string]: unknown },
  locale: string,
  frame: Words,
  at: Circumstances,
): string {
  const { definition, takes, facts: plan } = use;
  const words = attempted(() => definition.words?.(takes, read, SHIPPED)) ?? {};
  const facts = factsBeforehand(use, read, at);
  const relative = relativeIn(takes);
  const known = (slot: string) => slot in facts || slot in words || slot in plan.labels || slot === 'fields' || slot === 'fields_count';
  const unknown = (slot: string): string | undefined => {
    if (relative && slot in facts) return frame.relative(relative);
    if (known(slot)) return undefined;
    const role = slot.replace(/_value$/, '');
    const label = plan.labels[role];
    return named(label !== undefined ? textIn(label, locale) : slot.replace(/^[^_]*_/, ''));
  };
  const told = { info: use, spots: blamed.map((place) => ({ place })), facts, words, labels: plan.labels };
  return attempted(() => renderGenerally(told, locale, unknown)) ?? use.rule;
}

/** A bound that is worked out from the clock at each judgement. */
export interface Relative {
  readonly relative: string;
  readonly by: number;
}

function relativeIn(takes: Takes): Relative | undefined {
  return Object.values(takes).find(
    (value): value is Relative => typeof value === 'object' && value !== null && 'relative' in value && 'by' in value,
  );
}

/** Parameters, and the facts that are the same for every submission. */
function factsBeforehand(
  { definition, takes, facts: plan }: Sayable,
  read: { readonly [role: string]: unknown },
  at: Circumstances,
): ReturnType<typeof factsOf> {
  const bare = { ...plan, values: [], found: [] };
  const own = definition.isFixed ? attempted(() => factsOf(bare, definition, read, {}, takes, at)) : undefined;
  if (own) return own;
  const without: Definition = { ...definition, facts: (): Facts => ({}) };
  const facts = attempted(() => factsOf(bare, without, read, {}, takes, at)) ?? {};
  // A bound that is relative to the clock is a fact, though it is worked out anew each day.
  const dated = attempted(() => definition.facts?.(read, {}, takes, at)) ?? {};
  const isOfParameters =
    definition.isOurs === true && Object.keys(definition.reads).join() === 'field' && Object.keys(definition.looksUp).length === 0;
  return isOfParameters && definition.entryOf === undefined ? ({ ...facts, ...dated } as typeof facts) : facts;
}

/** A condition in words. */
export function conditionIn(condition: ConditionPlan, words: Words, locale: string): string {
  const inside = (of: readonly ConditionPlan[]) => of.map((each) => bracketed(each, words, locale));
  return byCondition(condition, {
    not: ({ of }) => `${words.not} ${inside(of).join('')}`,
    all: ({ of }) => inside(of).join(` ${words.and} `),
    any: ({ of }) => inside(of).join(` ${words.or} `),
    occasion: ({ names }) => `${words.on} ${names.join(` ${words.or} `)}`,
    calendar: ({ from, until }) => [from && `${words.from} ${from}`, until && `${words.until} ${until}`].filter(Boolean).join(' '),
    condition: (reads) => readsIn(reads, words, locale),
  });
}

function bracketed(condition: ConditionPlan, words: Words, locale: string): string {
  const text = conditionIn(condition, words, locale);
  return condition.of.length > 1 ? `(${text})` : text;
}

function readsIn({ definition, takes, roles }: ReadsCondition, words: Words, locale: string): string {
  const label = (role: RolePlan) => textIn(role.place.label, locale) || role.place.path;
  if (definition.isPresence) return `${roles.map(label).join(', ')} ${words.isThere}`;
  const wanted = wantedIn(definition, takes);
  if (!wanted) return `${definition.id} (${roles.map(label).join(', ')})`;
  return roles
    .map(
      (role, at) => `${label(role)} ${words.is} ${(wanted[at] ?? []).map((value) => optionIn(role, value, locale)).join(` ${words.or} `)}`,
    )
    .join(` ${words.and} `);
}

/** Of the condition that compares with constants: those of each of its roles. */
export function wantedIn({ id }: Definition, { wanted }: Takes): readonly (readonly unknown[])[] | undefined {
  return id === 'equals' && Array.isArray(wanted) ? (wanted as readonly (readonly unknown[])[]) : undefined;
}

/** An option in words for people. */
function optionIn({ step }: RolePlan, value: unknown, locale: string): string {
  const { facts, words } = step.kind;
  const at = facts?.options?.indexOf(value as string) ?? -1;
  const texts = at < 0 ? undefined : words?.options?.[at];
  return texts === undefined ? String(value) : textIn(texts, locale);
}

function attempted<T>(run: () => T): T | undefined {
  try {
    return run();
  } catch {
    return undefined;
  }
}
