import { isFault } from '../../../core/basics/fault.ts';
import { Misuse } from '../../basics/misuse.ts';
import { Bench } from './bench.ts';
import type { Call, Loaded, Loading, Reply } from './messages.ts';

// A process of its own for each load of a module: what the module does, and never ends doing, stays in it.

const send = (message: Reply | Loaded) => process.send?.(message);

process.on('disconnect', () => process.exit());
// What a rule leaves behind must not end the process that others ask.
process.on('unhandledRejection', (cause) => console.error(cause));

try {
  const bench = await Bench.of(JSON.parse(process.argv[2] as string) as Loading);
  process.on('message', (message) => void answer(bench, message as Call));
  send({ loaded: true, intakes: bench.names, hasRecords: bench.hasRecords });
} catch (cause) {
  send({ loaded: false, problem: toldOf(cause) });
}

async function answer(bench: Bench, { id, name, argument }: Call): Promise<void> {
  try {
    send({ id, result: await (bench[name] as (argument: unknown) => unknown).call(bench, argument) });
  } catch (cause) {
    send({ id, problem: toldOf(cause) });
  }
}

function toldOf(cause: unknown): string {
  if (cause instanceof Misuse || isFault(cause)) return (cause as Error).message;
  return cause instanceof Error ? `${cause.name}: ${cause.message}` : String(cause);
}
