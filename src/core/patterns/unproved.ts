/**
 * In place of the proof (`linear.ts`) in a browser's bundle, under the condition `browser` of package.json: an intake is defined on a
 * server or in a test as well, where its patterns are proved, and a visitor need not load the proof again.
 */
export function whyNotLinear(_expression: RegExp): string | undefined {
  return undefined;
}
