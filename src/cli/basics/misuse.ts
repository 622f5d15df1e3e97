/** Something the person who runs the command can put right; told as one sentence, without a stack. */
export class Misuse extends Error {
  override readonly name = 'Misuse';
}

export const EXIT = { accepted: 0, rejected: 1, undecided: 2, misuse: 3, failed: 4 } as const;
export type Exit = (typeof EXIT)[keyof typeof EXIT];
