/** In place of a predicate's answer: what it threw. */
export class Thrown {
  constructor(readonly cause: unknown) {}
}

/** What a predicate gave instead of true or false, without its content. */
export function describe(answer: unknown): string {
  if (answer instanceof Promise) return 'a Promise (use `asks`)';
  return answer === null ? 'null' : `a value of type ${typeof answer}`;
}
