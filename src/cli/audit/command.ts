import type { Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, formatFlag, intakeFlag, MISUSE, MODULE, moreHelp, wholeNumber } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { ADDRESSES } from '../databases/databases.ts';
import { judgingFlags } from '../records/judging-flags.ts';
import type { AuditFlags } from './audit.ts';

export function auditCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program
      .command('audit')
      .description('Judge what is stored already: which of the records would be refused today.')
      .argument('<module>', MODULE)
      .argument('<from>', `a database (${ADDRESSES}), or a file of rows`),
  ).option('--table <name>', "of a database: the table (default: the intake's storedIn)");
  judgingFlags(command)
    .option('--fixes <file>', 'write the records that would be refused there, as CSV (.csv) or NDJSON, to be mended')
    .option('--state <file>', 'of a database: remember there how far the audit is, and go on from there')
    .option('--rows <count>', 'of a database: rows read at a time', wholeNumber, 1000);
  formatFlag(command);
  moreHelp(command, 'jestril audit src/intakes.ts postgres://localhost/marina --intake vessel-registration --fixes to-mend.csv', [
    [0, 'all would be accepted'],
    [1, 'some would be refused'],
    [2, 'none would be refused, some are undecided'],
    MISUSE,
    FAILED,
  ]).action((module: string, from: string, flags: AuditFlags) =>
    run(async () => (await import('./audit.ts')).audit(module, from, flags, context)),
  );
}
