import type { ClaimBook } from '../claims/claim-book.ts';
import { settle } from '../claims/settle.ts';
import type { Judges } from './judges.ts';
import type { Judged } from './piece-judge.ts';
import type { Task } from './task.ts';

/** A piece, and what came of it. */
export interface Done {
  readonly task: Task;
  readonly judged: Judged;
}

/**
 * Judges pieces side by side, and gives what came of them in their order, the same as if all were judged in one go: where rows of different
 * pieces claim the same, the later piece is judged once more, and told so. No more pieces are under way than there are judges for.
 *
 * @param book what rows have claimed
 */
export async function* judgedInOrder(tasks: AsyncIterable<Task>, judges: Judges, book: ClaimBook): AsyncGenerator<Done> {
  if (judges.judgeInTurn) {
    for await (const task of tasks) yield { task, judged: await judges.judgeInTurn(task, book) };
    return;
  }
  const underWay: { readonly task: Task; readonly judging: Promise<Judged> }[] = [];
  const ready = async (): Promise<Done> => {
    const { task, judging } = underWay.shift() as (typeof underWay)[number];
    const alone = await judging;
    const answers = settle(alone.claims, task.rowsBefore, book);
    return { task, judged: answers ? await judges.judge({ ...task, answers }) : alone };
  };
  // One more than there are judges, so that nobody waits for what is read next.
  const most = judges.width + 1;
  let broken: { readonly cause: unknown } | undefined;
  try {
    for await (const task of tasks) {
      const judging = judges.judge(task);
      judging.catch(() => undefined);
      underWay.push({ task, judging });
      if (underWay.length >= most) yield await ready();
    }
  } catch (cause) {
    broken = { cause };
  }
  while (underWay.length > 0) yield await ready();
  // What was read before the source broke off has its verdicts first.
  if (broken) throw broken.cause;
}
