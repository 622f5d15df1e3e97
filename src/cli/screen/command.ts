import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, formatFlag, intakeFlag, MISUSE, MODULE, moreHelp, share, wholeNumber } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { ADDRESSES } from '../databases/databases.ts';
import { judgingFlags } from '../records/judging-flags.ts';
import type { StartFlags } from './begin.ts';

const FOLDER = 'folder of the screening, on storage that all its machines share';
const REDIS = 'redis://… by which ranges are handed to other machines (with the packages bullmq and ioredis)';

export function screenCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const screen = program
    .command('screen')
    .description('Judge imports of any size, on one machine or many: what is done stays done, and can be gone on with.');

  const start = screen
    .command('start')
    .description('begin a screening, or go on with one')
    .argument('<module>', MODULE)
    .argument('[data...]', 'files of submissions, or http(s) addresses: NDJSON, JSON lists, CSV or URL-encoded; compressed (gzip) or not')
    .requiredOption('--to <folder>', FOLDER)
    .option('--resume', 'go on with what is in the folder')
    .option('--undecided', 'with --resume: judge again what is undecided')
    .option('--workers <number>', 'threads of this process that judge (default: 1; with --redis none)', wholeNumber)
    .option('--redis <url>', REDIS)
    .option('--from <database>', 'screen the rows of a table instead of files')
    .option('--table <name>', 'the table (default: that of the collection in which the intake is stored)');
  intakeFlag(start);
  judgingFlags(start)
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
    .addOption(new Option('--report <which>', 'which findings').choices(['everything', 'firstOfEach', 'firstOfAll']).default('everything'))
    .option('--rejected <file>', 'write the rows that are not accepted there, as they came, with what was found beside them')
    .option('--accepted <file>', 'write the values that are accepted there, as CSV (.csv) or NDJSON')
    .option('--into <database>', `store what is accepted in a table of it, each row once (${ADDRESSES})`)
    .option('--into-table <name>', 'that table (default: that of the collection in which the intake is stored)')
    .option('--stop-after <number>', 'stop once so many rows are not accepted', wholeNumber)
    .option('--most-rejected <share>', 'stop once more than this share of all rows is not accepted, such as 5%', share)
    .option('--sample <number>', 'judge so many rows only, from the first to the last, to see what would come of all', wholeNumber)
    .option('--range-bytes <number>', 'bytes of a range (default: 2,000,000)', wholeNumber);
  formatFlag(start);
  moreHelp(
    start,
    'jestril screen start examples/marina/index.ts vessels.csv --intake vessel-registration --records records.json --to screened --workers 2',
    [
      [0, 'all accepted'],
      [1, 'some rejected'],
      [2, 'none rejected, some undecided; or stopped before its end'],
      [3, 'misuse, or some rows could not be read'],
      [4, 'it stopped for what it could not do, such as a disk that is full; go on with --resume'],
    ],
  ).action((module: string, data: string[], flags: StartFlags, command: Command) => {
    const named = new Set(Object.keys(flags).filter((name) => command.getOptionValueSource(name) === 'cli'));
    return run(async () => (await import('./start.ts')).start(module, data, flags, context, named));
  });

  const join = screen
    .command('join')
    .description('take part in a screening that another machine has begun')
    .argument('<module>', `${MODULE}, in the same version as where it was begun`)
    .requiredOption('--to <folder>', FOLDER)
    .requiredOption('--redis <url>', REDIS)
    .option('--records <where>', 'the records that rules ask, as for check')
    .option('--from <database>', 'the database with the rows of the table that is screened')
    .option('--workers <number>', 'threads that judge (default: 1)', wholeNumber);
  moreHelp(join, 'jestril screen join examples/marina/index.ts --to /shared/screened --redis redis://10.0.0.2', [
    [0, 'the screening is over, or it was told to leave'],
    MISUSE,
    FAILED,
  ]).action((module: string, flags: { readonly to: string; readonly redis: string }) =>
    run(async () => (await import('./join.ts')).join(module, flags.to, flags, context)),
  );

  const watch = screen.command('watch').description('tell how far a screening is').argument('<folder>', FOLDER);
  moreHelp(watch, 'jestril screen watch /shared/screened', [[0, 'it is over'], [2, 'it goes on'], MISUSE, FAILED]).action(
    (folder: string) => run(async () => (await import('./watch.ts')).watchScreening(folder, context)),
  );

  const end = screen.command('end').description('end a screening for good').argument('<folder>', FOLDER).option('--redis <url>', REDIS);
  moreHelp(end, 'jestril screen end /shared/screened --redis redis://10.0.0.2', [[0, 'it is ended'], MISUSE, FAILED]).action(
    (folder: string, flags: { readonly redis?: string }) => run(async () => (await import('./end.ts')).end(folder, flags, context)),
  );
}
