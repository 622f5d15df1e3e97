import { fault } from '../basics/fault.ts';
import type { Fields, Shapes, ShapesField } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { BoundRule, ShapeSpec } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { shapesStep } from '../steps/shapes.ts';
import { makeField } from './field.ts';

const spec: KindSpec<object> = {
  name: 'one-of-shapes',
  step: shapesStep,
  is: ['one-of-shapes'],
  says: { en: '{field} must be an object with named fields.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

/** One of several shapes: its fields, and rules between them. */
export interface ShapeBody<out F extends Fields> {
  readonly fields: F;
}
/** The fields of one shape, and rules between them. */
export const shape = <F extends Fields>(fields: F, ...rules: BoundRule<F>[]): ShapeBody<F> => ({ fields, rules }) as ShapeBody<F>;

export interface ShapesKind extends Kind<'one-of-shapes', object> {
  <const Tag extends string, S extends Shapes>(label: string, tag: Tag, shapes: S): ShapesField<Tag, S>;
}

/**
 * An object that has one of several shapes, told apart by the text under the key `tag`.
 * Rules read the fields of a shape by its name: `payment.card.expires`; they are skipped for the other shapes. The intake's `languages`
 * call the shapes by other words, as the options of a choice.
 *
 * @law An object of one of several shapes, told apart by the text under a key.
 * @example oneOfShapes('Payment', 'method', { card: shape({ number: text('Number') }), cash: shape({}) })
 * @holds { method: 'cash' }
 * @fails { method: 'barter' }
 */
export const oneOfShapes = asKind<ShapesKind>(
  spec,
  (label: string, tag: string, shapes: { readonly [name: string]: ShapeSpec }, ...more: unknown[]) => {
    if (more.length > 0) fault(`oneOfShapes('${label}') takes no rules; they stand in the shapes that they are about.`);
    if (typeof shapes !== 'object' || shapes === null) fault(`oneOfShapes('${label}') needs its shapes as its third argument.`);
    const names = Object.keys(shapes);
    if (typeof tag !== 'string' || tag === '') fault(`oneOfShapes('${label}') needs the key of its tag as its second argument.`);
    if (names.length === 0) fault(`oneOfShapes('${label}') needs at least one shape.`);
    for (const name of names) {
      if (Object.hasOwn(shapes[name]?.fields ?? fault(`Shape "${name}" of "${label}" is made by shape({ … }).`), tag))
        fault(`Shape "${name}" of "${label}" has a field "${tag}", which is the tag.`);
    }
    return makeField({ ...spec, facts: { options: names }, words: { options: names } }, label, [], { tag, shapes });
  },
);

export const shapesTold: ToldKind = { spec, make: oneOfShapes, made: 'oneOfShapes', called: 'one of several shapes', typeScript: 'object' };
