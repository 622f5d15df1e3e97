import { type Command, InvalidArgumentError } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { judgingFlags } from '../records/judging-flags.ts';
import type { ServeFlags } from './serve.ts';

export function serveCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = program
    .command('serve')
    .description('A workbench in the browser: edit a submission, and see its verdict and why.')
    .argument('<module>', MODULE)
    .option('--port <number>', 'port of 127.0.0.1 (default: 4320, or any that is free)', portNumber);
  moreHelp(
    judgingFlags(command),
    'jestril serve examples/marina/index.ts --records examples/marina/data/records.json --given examples/marina/data/caller.json',
    [[0, 'it was ended'], MISUSE, FAILED],
  ).action((module: string, flags: ServeFlags) => run(async () => (await import('./serve.ts')).serve(module, flags, context)));
}

function portNumber(text: string): number {
  const port = Number(text);
  if (!/^\d{1,5}$/.test(text) || port > 65_535) throw new InvalidArgumentError('It has to be a port, 0 to 65535.');
  return port;
}
