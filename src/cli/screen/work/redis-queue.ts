import { Misuse } from '../../basics/misuse.ts';
import { packageOf } from '../../basics/package-of.ts';
import type { Turn } from '../folder/job.ts';
import type { Queue } from './queue.ts';

type Bull = typeof import('bullmq');
type Redis = import('ioredis').Redis;

/** Times that a range is tried before the screening stops for it, with longer and longer pauses. */
const ATTEMPTS = 5;
/** Milliseconds after which a range whose worker is gone is given to another. */
const LOCK = 15_000;

const nameOf = (job: string) => `jestril-screen-${job}`;

async function bull(): Promise<Bull> {
  const loaded = await packageOf<Bull & { readonly default?: Bull }>('bullmq', '--redis');
  return loaded.Queue ? loaded : (loaded.default as Bull);
}

/** A connection that waits for a server that is away, for as long as it takes. */
async function connectionTo(url: string): Promise<Redis> {
  const loaded = await packageOf<{ readonly default: new (url: string, options: object) => Redis }>('ioredis', '--redis');
  const connection = new loaded.default(url, { maxRetriesPerRequest: null, retryStrategy: (tries: number) => Math.min(tries * 200, 2000) });
  // Told by those who wait for an answer.
  connection.on('error', () => undefined);
  return connection;
}

/** Ranges that are offered to workers by BullMQ; what Redis forgets is offered again, since the folder knows what is done. */
export async function redisQueue(url: string, job: string): Promise<Queue> {
  const { Queue: BullQueue, QueueEvents } = await bull();
  const [connection, listening] = await Promise.all([connectionTo(url), connectionTo(url)]);
  const queue = new BullQueue<Turn>(nameOf(job), { connection: connection as never });
  const events = new QueueEvents(nameOf(job), { connection: listening as never });
  queue.on('error', () => undefined);
  events.on('error', () => undefined);
  return {
    room: 500,
    again: 10_000,
    async offer(turns) {
      await queue.addBulk(
        turns.map(({ index, turn }) => ({
          name: turn,
          data: { index, turn },
          opts: {
            jobId: `${turn}-${index}`,
            attempts: ATTEMPTS,
            backoff: { type: 'exponential', delay: 500 },
            // The folder remembers what is done: a name that is free again can be offered again.
            removeOnComplete: true,
            removeOnFail: true,
          },
        })),
      );
    },
    onFailed(failed) {
      events.on('failed', ({ jobId, failedReason }) => {
        const [turn, index] = jobId.split('-') as [string, string];
        failed({ index: Number(index), turn }, failedReason);
      });
    },
    async close() {
      await Promise.allSettled([events.close(), queue.close()]);
      connection.disconnect();
      listening.disconnect();
    },
  };
}

/** Takes ranges and does them, so many side by side, until it is closed. */
export async function redisWorker(
  url: string,
  job: string,
  width: number,
  work: (turn: Turn) => Promise<void>,
): Promise<{ close(): Promise<void> }> {
  const { Worker, UnrecoverableError } = await bull();
  const connection = await connectionTo(url);
  const told = async ({ data: { index, turn } }: { readonly data: Turn }) => {
    try {
      await work({ index, turn });
    } catch (cause) {
      // What a person has to put right is told at once.
      throw cause instanceof Misuse ? new UnrecoverableError(cause.message) : cause;
    }
  };
  const worker = new Worker<Turn>(nameOf(job), told, {
    connection: connection as never,
    concurrency: width,
    lockDuration: LOCK,
    stalledInterval: LOCK / 3,
    // A range is not to blame for workers that are killed.
    maxStalledCount: 1000,
  });
  worker.on('error', () => undefined);
  return {
    async close() {
      await worker.close().catch(() => undefined);
      connection.disconnect();
    },
  };
}

/** Takes away what a job has left in Redis. */
export async function forgetQueue(url: string, job: string): Promise<void> {
  const { Queue: BullQueue } = await bull();
  const connection = await connectionTo(url);
  const queue = new BullQueue(nameOf(job), { connection: connection as never });
  await queue.obliterate({ force: true });
  await queue.close();
  connection.disconnect();
}
