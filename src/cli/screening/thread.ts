import type { Readable } from 'node:stream';
import { workerData } from 'node:worker_threads';
import { loadIntake } from '../basics/loading.ts';
import { lookOf } from '../basics/terminal.ts';
import { settingsFor } from '../records/settings.ts';
import type { Setup } from './judges.ts';
import { ownThread } from './patience.ts';
import { type Judged, PieceJudge } from './piece-judge.ts';
import type { Task } from './task.ts';

// A thread that judges pieces: it loads the module, and asks the records, by itself.

let made: Promise<PieceJudge> | undefined;

async function make({ module, intake: name, flags, telling, terminal, seed }: Setup): Promise<PieceJudge> {
  const intake = await loadIntake(module, name);
  // What there is to warn of, the command has told.
  const { options } = await settingsFor(intake, flags, {
    stdin: undefined as unknown as Readable,
    warn: () => undefined,
    isPatient: true,
  });
  return new PieceJudge(intake, options, { ...telling, look: lookOf(terminal) }, seed);
}

/** Judges one piece. */
export default async function judge(task: Task): Promise<Judged | Pick<Judged, 'claims'>> {
  made ??= make((Array.isArray(workerData) ? workerData.at(-1) : workerData) as Setup);
  // A database that is away may be back when the next piece comes.
  made.catch(() => {
    made = undefined;
  });
  const ready = await made;
  if (task.begun) {
    Atomics.store(task.begun, 1, ownThread());
    Atomics.store(task.begun, 0, 0);
  }
  return task.onlyClaims ? { claims: await ready.claims(task) } : ready.judge(task);
}
