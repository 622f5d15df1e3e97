/**
 * In place of the names of zones (`zones.ts`) in a browser's bundle, where nobody asks for zones by the thousand: the run time's own answer.
 */
export function zoneNamed(name: string): string | undefined {
  try {
    // Offsets such as +02:00 are no names, though Intl takes them.
    return /^[A-Za-z]/.test(name) ? new Intl.DateTimeFormat('en', { timeZone: name }).resolvedOptions().timeZone : undefined;
  } catch {
    return undefined;
  }
}
