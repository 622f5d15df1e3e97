import type { LookUpSpec } from '../declared/look-up.ts';

/** Something that look-ups find and that messages can name: `{owner_email}`, `{berth_owner_name}`, `{guests}` for a count. */
export interface FoundFact {
  readonly fact: string;
  /** The look-ups that lead to it, and then its column, unless it is a number or a flag. */
  readonly path: readonly string[];
  readonly column?: { readonly name: string; readonly collection: LookUpSpec['collection'] };
}

export function foundFacts(lookUps: { readonly [name: string]: LookUpSpec }, around: readonly string[] = []): FoundFact[] {
  return Object.entries(lookUps).flatMap(([name, { form, columns, collection, inner }]): FoundFact[] => {
    const path = [...around, name];
    if (form.gives === 'count' || form.gives === 'flag') return [{ fact: path.join('_'), path }];
    const [one] = columns;
    if (form.gives === 'value' && one !== undefined) return [{ fact: path.join('_'), path, column: { name: one, collection } }];
    // Many rows have no one value.
    if (form.gives === 'rows') return [];
    const own = columns.map((column) => ({
      fact: [...path, column].join('_'),
      path: [...path, column],
      column: { name: column, collection },
    }));
    return [...own, ...foundFacts(inner, path)];
  });
}
