import { fault } from '../basics/fault.ts';
import type { Kind, RoleSpec } from '../declared/kind.ts';
import type { Clean, CleanSpec } from '../declared/rule.ts';

/**
 * A cleaning step of one's own: `cleaning('marina/no-blanks', text, (mark) => mark.replaceAll(' ', ''))`.
 * Cleaning what is clean already should change nothing, since a value may be judged again.
 *
 * @law A step of your own.
 * @example text('F', cleaning('marina/no-blanks', text, (value) => value.replaceAll(' ', '')))
 * @holds 'PW 2040'
 * @fails ' '
 */
export function cleaning<const K extends string, T>(name: string, kind: Kind<K, T>, apply: (value: T) => T): Clean<K> {
  if (typeof name !== 'string' || name === '') fault('A cleaning step needs a name as its first argument.');
  const { spec } = (kind ?? {}) as unknown as Partial<RoleSpec>;
  if (!spec) fault(`Cleaning step "${name}" needs the kind that it cleans as its second argument, such as text.`);
  if (typeof apply !== 'function') fault(`Cleaning step "${name}" needs what it does as its third argument, a function of the value.`);
  const step: CleanSpec = { type: 'clean', name, kinds: [spec.name], apply };
  return step as unknown as Clean<K>;
}
