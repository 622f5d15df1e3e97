import { createRequire } from 'node:module';
import { Command, CommanderError } from 'commander';
import { isFault } from '../core/basics/fault.ts';
import type { Context } from './basics/context.ts';
import { EXIT, type Exit, Misuse } from './basics/misuse.ts';
import { COMMANDS } from './commands.ts';

const { version } = createRequire(import.meta.url)('jestril/package.json') as { version: string };

let exit: Exit = EXIT.accepted;

// What a loaded module writes to standard output is not what the command has to say: it goes beside.
const write = process.stdout.write.bind(process.stdout);
process.stdout.write = process.stderr.write.bind(process.stderr);

const context: Context = {
  stdin: process.stdin,
  stdout: process.stdout,
  out: (text) => (text === '' || write(text) ? undefined : new Promise((resolve) => process.stdout.once('drain', resolve))),
  warn: (text) => {
    process.stderr.write(text);
  },
  note: (soFar) => {
    exit = soFar;
  },
};

const program = new Command('jestril')
  .description('Rules over values, fields and stored records: judged, described, proved and compared.')
  .version(version)
  .exitOverride()
  .configureOutput({ writeOut: (text) => write(text) })
  .configureHelp({ showGlobalOptions: false })
  .showSuggestionAfterError();
for (const command of COMMANDS)
  command(program, context, async (work) => {
    exit = await work();
  });

// A reader that goes away early, such as head, is no failure of ours.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(exit);
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) exit = error.exitCode === 0 ? EXIT.accepted : EXIT.misuse;
  else if (error instanceof Misuse || isFault(error)) {
    process.stderr.write(`${(error as Error).message}\n`);
    exit = EXIT.misuse;
  } else {
    process.stderr.write(`${(error as Error).stack ?? String(error)}\n`);
    exit = EXIT.failed;
  }
}
// What a module has left open does not keep the command from ending, once all is written.
await new Promise((resolve) => write('', resolve));
process.exit(exit);
