import type { Finding } from '../basics/verdict.ts';

type Findings = readonly Finding[];

/** One line a finding: where, then what. */
export function asLines(findings: Findings): string[] {
  return findings.map(({ places, message }) => `${places.map(({ pointer }) => pointer || '/').join(' ')}: ${message}`);
}

/** The sentences by the JSON Pointer of the first place of each; for showing them beside fields. */
export function byPlace(findings: Findings): { [pointer: string]: string[] } {
  const grouped = new Map<string, string[]>();
  for (const { places, message } of findings) {
    const pointer = places[0]?.pointer ?? '';
    const there = grouped.get(pointer);
    if (there) there.push(message);
    else grouped.set(pointer, [message]);
  }
  return Object.fromEntries(grouped);
}

/** All sentences as one text, each once. */
export function asText(findings: Findings): string {
  return [...new Set(findings.map(({ message }) => message))].join(' ');
}

/** A finding for machines: ids, places and facts, and no words. */
export interface CompactFinding {
  readonly rule: string;
  readonly use: string;
  readonly at: readonly string[];
  readonly facts?: Finding['facts'];
  /** Present where it is a warning. */
  readonly severity?: 'warning';
}

/** Ids, places and facts only. */
export function asCompact(findings: Findings): CompactFinding[] {
  return findings.map(({ rule, use, severity, places, facts }) => ({
    rule,
    use,
    at: places.map(({ pointer }) => pointer),
    ...(Object.keys(facts).length > 0 && { facts }),
    ...(severity === 'warning' && { severity }),
  }));
}
