import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, formatFlag, intakeFlag, MISUSE, MODULE, moreHelp, wholeNumber } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { judgingFlags } from '../records/judging-flags.ts';
import type { CheckFlags } from './check.ts';

export function checkCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = program
    .command('check')
    .description('Judge submissions: JSON, NDJSON, CSV or URL-encoded.')
    .argument('<module>', MODULE)
    .argument('<data...>', 'files of submissions, http(s) addresses, or - for standard input; compressed (gzip) or not');
  intakeFlag(command);
  judgingFlags(command)
    .addOption(
      new Option('--input <format>', 'format of the data (default: by its name, then by what it holds)').choices([
        'json',
        'ndjson',
        'csv',
        'form',
      ]),
    )
    .option('--delimiter <character>', 'of CSV (default: the one that the first line has most of)')
    .option('--header <names>', 'of CSV without one: the columns, by the paths of their fields, with commas between')
    .addOption(
      new Option('--as <reading>', 'how values are read (default: CSV and URL-encoded as a form, JSON as it is)').choices(['json', 'form']),
    )
    .addOption(new Option('--report <which>', 'which findings').choices(['everything', 'firstOfEach', 'firstOfAll']).default('everything'))
    .option('--amends', 'each row is a change: { "stored": { … }, "change": { … }, "itself": { … } }')
    .option('--explain', 'tell what became of every rule, what it read and what it asked')
    .option('--rejected <file>', 'write the rows that are not accepted there, as they came, with what was found beside them')
    .option(
      '--workers <number>',
      'threads that judge side by side (with the package piscina); the verdicts and their order are the same',
      wholeNumber,
    )
    .option('--stop-after <number>', 'stop once so many rows are not accepted', wholeNumber)
    .option('--quiet', 'tell the summary only')
    .option('--watch', 'judge again whenever the module or the data change');
  formatFlag(command);
  moreHelp(
    command,
    'jestril check examples/marina/index.ts vessels.csv --intake vessel-registration --records records.json --rejected to-mend.csv',
    [[0, 'all accepted'], [1, 'some rejected'], [2, 'none rejected, some undecided'], MISUSE, FAILED],
  ).action((module: string, data: string[], flags: CheckFlags & { readonly watch?: boolean }) =>
    run(async () => {
      if (flags.watch) return (await import('./watch.ts')).watch(module, data, context);
      return (await import('./check.ts')).check(module, data, flags, context);
    }),
  );
}
