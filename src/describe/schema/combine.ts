import type { JsonSchema } from '../../core/declared/schema-words.ts';

/** Limits of which the stricter one counts. */
const STRICTER: { readonly [keyword: string]: (a: number, b: number) => number } = {
  minimum: Math.max,
  exclusiveMinimum: Math.max,
  minLength: Math.max,
  minItems: Math.max,
  maximum: Math.min,
  exclusiveMaximum: Math.min,
  maxLength: Math.min,
  maxItems: Math.min,
};

/** One schema that demands what each of these does: keywords side by side, and in `allOf` where two have the same. */
export function combined(schemas: readonly JsonSchema[]): JsonSchema {
  const merged: { [keyword: string]: unknown } = {};
  const besides: JsonSchema[] = [];
  for (const schema of schemas) {
    const odd: { [keyword: string]: unknown } = {};
    for (const [keyword, value] of Object.entries(schema)) {
      const known = merged[keyword];
      const stricter = STRICTER[keyword];
      if (known === undefined) merged[keyword] = value;
      else if (stricter) merged[keyword] = stricter(known as number, value as number);
      else if (keyword === 'required') merged[keyword] = [...new Set([...(known as string[]), ...(value as string[])])];
      else if (keyword === 'allOf') merged[keyword] = [...(known as JsonSchema[]), ...(value as JsonSchema[])];
      else if (JSON.stringify(known) !== JSON.stringify(value)) odd[keyword] = value;
    }
    if (Object.keys(odd).length > 0) besides.push(odd);
  }
  return besides.length === 0 ? merged : { ...merged, allOf: [...((merged.allOf as JsonSchema[] | undefined) ?? []), ...besides] };
}

/** The same, or null. */
export function orNull(schema: JsonSchema): JsonSchema {
  const { type, enum: options, title, default: filled, description, ...rest } = schema;
  const about = {
    ...(title !== undefined && { title }),
    ...(description !== undefined && { description }),
    ...(filled !== undefined && { default: filled }),
  };
  // Keywords about texts, numbers and the like leave null alone; these do not.
  const isFree = !['const', 'not', 'anyOf', 'oneOf', 'allOf', '$ref'].some((keyword) => keyword in rest);
  if (isFree && type !== undefined)
    return { ...about, type: [type, 'null'].flat(), ...rest, ...(options !== undefined && { enum: [...(options as unknown[]), null] }) };
  if (isFree && options !== undefined) return { ...about, enum: [...(options as unknown[]), null], ...rest };
  return {
    ...about,
    anyOf: [{ ...(type !== undefined && { type }), ...(options !== undefined && { enum: options }), ...rest }, { type: 'null' }],
  };
}
