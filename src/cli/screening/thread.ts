import type { Readable } from 'node:stream';
import { workerData } from 'node:worker_threads';
import { loadIntake } from '../basics/loading.ts';
import { lookOf } from '../basics/terminal.ts';
import { settingsFor } from '../records/settings.ts';
import type { Setup } from './judges.ts';
import { type Judged, PieceJudge } from './piece-judge.ts';
import type { Task } from './task.ts';

// A thread that judges pieces: it loads the module, and asks the records, by itself.

let made: Promise<PieceJudge> | undefined;

async function make({ module, intake: name, flags, telling, terminal }: Setup): Promise<PieceJudge> {
  const intake = await loadIntake(module, name);
  // What there is to warn of, the command has told.
  const { options } = await settingsFor(intake, flags, { stdin: undefined as unknown as Readable, warn: () => undefined });
  return new PieceJudge(intake, options, { ...telling, look: lookOf(terminal) });
}

/** Judges one piece. */
export default async function judge(task: Task): Promise<Judged> {
  if (task.begun) task.begun[0] = 0;
  made ??= make((Array.isArray(workerData) ? workerData.at(-1) : workerData) as Setup);
  return (await made).judge(task);
}
