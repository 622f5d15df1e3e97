import { planOf } from '../core/intake.ts';
import { toldOf } from '../core/kinds/told.ts';
import { textIn } from '../core/messages/render.ts';
import { bySort } from '../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps } from '../core/plan/plan.ts';

/** What a type is of: what may be sent, or what is accepted. */
type TypeOf = 'received' | 'accepted';

/** TypeScript declarations of what an intake takes and of what it accepts, for those who have only its description. */
export function typeScriptOf(intake: { readonly name: string }, locale = 'en'): string {
  const { fields } = planOf(intake);
  const name = pascal(intake.name);
  return `/** What may be sent to "${intake.name}". */
export interface ${name}Submission ${objectType(fields, 'received', locale, 0)}

/** What "${intake.name}" accepts. */
export interface ${name} ${objectType(fields, 'accepted', locale, 0)}
`;
}

function objectType({ steps }: FieldSteps, of: TypeOf, locale: string, depth: number, tag = ''): string {
  const indent = '  '.repeat(depth + 1);
  const lines = steps
    .filter(({ isLeftOut }) => of === 'received' || !isLeftOut)
    .map((step) => {
      const { needed, filledBy, nullAllowed, place } = step;
      const isOptional = of === 'received' ? !needed || filledBy !== undefined : !needed && filledBy === undefined;
      const type = `${typeOf(step, of, locale, depth + 1)}${nullAllowed ? ' | null' : ''}`;
      return `${indent}/** ${textIn(place.label, locale).replaceAll('*/', '* /')} */\n${indent}${property(step.key)}${isOptional ? '?' : ''}: ${type};`;
    });
  const all = [...(tag === '' ? [] : [`${indent}${tag}`]), ...lines];
  return all.length === 0 ? '{}' : `{\n${all.join('\n')}\n${'  '.repeat(depth)}}`;
}

function typeOf(step: FieldStep, of: TypeOf, locale: string, depth: number): string {
  return bySort(step, {
    scalar: ({ kind }) => kind.facts?.options?.map((option) => JSON.stringify(option)).join(' | ') ?? toldOf(kind)?.typeScript ?? 'unknown',
    group: ({ inner }) => objectType(inner, of, locale, depth),
    list: ({ item }) => {
      const inner = typeOf(item, of, locale, depth);
      return /[|`]/.test(inner) && !inner.startsWith('{') ? `(${inner})[]` : `${inner}[]`;
    },
    table: ({ item }) => `{ [name: string]: ${typeOf(item, of, locale, depth)} }`,
    shapes: ({ tag, shapes }) =>
      [...shapes].map(([name, fields]) => objectType(fields, of, locale, depth, `${property(tag)}: ${JSON.stringify(name)};`)).join(' | '),
  });
}

function property(key: string): string {
  return /^[A-Za-z_$][\w$]*$/.test(key) ? key : JSON.stringify(key);
}

function pascal(name: string): string {
  const words = name.split(/[^A-Za-z0-9]+/).filter(Boolean);
  const joined = words.map((word) => word.charAt(0).toUpperCase() + word.slice(1)).join('');
  return /^[A-Za-z]/.test(joined) ? joined : `Intake${joined}`;
}
