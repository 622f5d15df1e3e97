import type { Verdict } from '../../core/basics/verdict.ts';
import type { Records } from '../../core/stored/records.ts';

/** What is told of judgements and of questions to the records; `telemetry()` of `jestril/telemetry` is one. */
export interface Telemetry {
  /** The same records, each round of questions told. */
  records<R extends Records>(records: R): R;
  /** Runs one judgement; `verdictOf` finds its verdict where `run` gives something around it. */
  judging<T>(intake: string, run: () => Promise<T>, verdictOf?: (result: T) => Verdict<unknown>): Promise<T>;
}
