/** The columns that the body of a trigger assigns: `NEW.email := …;`, `set new.email = …`. A comparison is no assignment. */
export function assignedIn(body: string): string[] {
  return [...body.matchAll(ASSIGNED)].map(([, column = '']) => column);
}
const ASSIGNED = /(?:^|;|,|\b(?:begin|then|else|set|loop))\s*new\.["`]?([\p{L}\p{N}_$]+)["`]?\s*:?=/giu;
