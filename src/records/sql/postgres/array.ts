/** The text of an array (PostgreSQL documentation, 8.15.6). */
export function arrayOf(values: readonly (string | number | boolean | undefined)[]): string {
  return `{${values.map(literal).join()}}`;
}

function literal(value: string | number | boolean | undefined): string {
  return typeof value === 'string' ? `"${/["\\]/.test(value) ? value.replaceAll(/["\\]/g, '\\$&') : value}"` : String(value);
}
