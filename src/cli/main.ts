#!/usr/bin/env node
import { createRequire } from 'node:module';
import { Command, CommanderError, Option } from 'commander';
import { Fault } from '../core/fault.ts';
import { type CheckOptions, check } from './check.ts';
import { EXIT, type Exit, Misuse } from './misuse.ts';

const { version } = createRequire(import.meta.url)('../../package.json') as { version: string };

let exit: Exit = EXIT.accepted;

const program = new Command('jestril')
  .description('Judges submissions with the intakes of a module.')
  .version(version)
  .exitOverride()
  .configureHelp({ showGlobalOptions: false });

program
  .command('check')
  .description('Judge each submission in JSON or NDJSON files with an intake.')
  .argument('<module>', 'TypeScript or JavaScript module that exports the intake')
  .argument('<data...>', '.json files (one submission, or a list), .ndjson files (one a line), or - for standard input')
  .option('--intake <name>', 'the intake, when the module exports several')
  .option('--records <file.json>', 'collections for the record rules; without it they are not decided')
  .option('--given <json>', 'given fields, as a JSON file or as JSON')
  .addOption(new Option('--as <reading>', 'how values are read').choices(['json', 'form']).default('json'))
  .option('--locale <tag>', 'language of the messages', 'en')
  .option('--now <moment>', 'the moment that counts as now (default: the clock)')
  .option('--occasion <name>', "one of the intake's occasions (default: its first)")
  .addOption(new Option('--report <which>', 'which findings').choices(['everything', 'firstOfEach', 'firstOfAll']).default('everything'))
  .option('--explain', 'tell what became of every rule')
  .addOption(
    new Option('--format <format>', 'text for people, json for programs (one object a line)').choices(['text', 'json']).default('text'),
  )
  .addHelpText(
    'after',
    `
Exit codes:
  0  all accepted
  1  some rejected
  2  none rejected, some undecided
  3  misuse: a wrong option, a file that is missing or not JSON, a module that does not load`,
  )
  .action(async (module: string, data: string[], options: CheckOptions) => {
    exit = await check(module, data, options, {
      stdin: process.stdin,
      out: (text) => process.stdout.write(text),
      warn: (text) => process.stderr.write(text),
    });
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
  else if (error instanceof Misuse || (error as Error).name === Fault.name) {
    process.stderr.write(`${(error as Error).message}\n`);
    exit = EXIT.misuse;
  } else throw error;
}
process.exitCode = exit;
