/**
 * A description that contradicts itself: a programmer's fault, thrown where it is written down,
 * before any data arrives. Faults of the data are never thrown; they are findings.
 */
export class Fault extends Error {
  override readonly name = 'Fault';
}

/** Whether something thrown is a `Fault`, also one of another copy of the package. */
export function isFault(thrown: unknown): thrown is Fault {
  return thrown instanceof Error && thrown.name === 'Fault';
}

/** Throws a `Fault` with this sentence. An expression, so that it can stand after `??`. */
export function fault(sentence: string): never {
  throw new Fault(sentence);
}

/** `did you mean "departs"?` for the nearest of `words`, or the list of them when none is near. */
export function nearest(word: string, words: readonly string[]): string {
  let best: string | undefined;
  let least = Math.max(2, Math.floor(word.length / 3)) + 1;
  for (const candidate of words) {
    const distance = editDistance(word, candidate);
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  if (best !== undefined) return `did you mean "${best}"?`;
  return words.length > 0 ? `there are: ${words.join(', ')}.` : 'there are none.';
}

/** Levenshtein distance, one row at a time. */
function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      const replaced = (row[j - 1] as number) + (a[i - 1] === b[j - 1] ? 0 : 1);
      next.push(Math.min(replaced, (row[j] as number) + 1, (next[j - 1] as number) + 1));
    }
    row = next;
  }
  return row[b.length] as number;
}
