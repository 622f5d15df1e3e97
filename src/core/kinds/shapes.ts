import { fault } from '../fault.ts';
import type { BoundRule, BoundSpec } from '../rules/use.ts';
import { type Fields, makeField, type Shapes, type ShapesField } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

const spec: KindSpec<object> = {
  name: 'shapes',
  is: ['shapes'],
  says: { en: '{field} must be an object with named fields.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

/** One of several shapes: its fields, and rules between them. */
export interface ShapeBody<out F extends Fields> {
  readonly fields: F;
}
export interface ShapeSpec {
  readonly fields: Fields;
  readonly rules: readonly BoundSpec[];
}
export const shape = <F extends Fields>(fields: F, ...rules: BoundRule<F>[]): ShapeBody<F> => ({ fields, rules }) as ShapeBody<F>;

export interface ShapesKind extends Kind<'shapes', object> {
  <const Tag extends string, S extends Shapes>(label: string, tag: Tag, shapes: S): ShapesField<Tag, S>;
}

/**
 * An object that has one of several shapes, told apart by the text under the key `tag`.
 * Rules read the fields of a shape by its name: `payment.card.expires`; they are skipped for the other shapes.
 */
export const oneOfShapes = asKind(spec, (label: string, tag: string, shapes: { readonly [name: string]: ShapeSpec }) => {
  const names = Object.keys(shapes);
  if (typeof tag !== 'string' || tag === '') fault(`oneOfShapes('${label}') needs the key of its tag as its second argument.`);
  if (names.length === 0) fault(`oneOfShapes('${label}') needs at least one shape.`);
  for (const name of names) {
    if (Object.hasOwn(shapes[name]?.fields ?? fault(`Shape "${name}" of "${label}" is made by shape({ … }).`), tag))
      fault(`Shape "${name}" of "${label}" has a field "${tag}", which is the tag.`);
  }
  return makeField(spec, label, [], { tag, shapes });
}) as unknown as ShapesKind;
