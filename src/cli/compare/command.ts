import type { Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, formatFlag, intakeFlag, MISUSE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { judgingFlags } from '../records/judging-flags.ts';
import type { CompareFlags } from './compare.ts';

export function compareCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program
      .command('compare')
      .description('Tell what differs between two versions of a module, and whether it breaks those who send.')
      .argument('<old>', 'a module, or one in a revision of git: main:src/intakes.ts')
      .argument('<new>', 'the same; a revision alone means the same module there'),
  );
  judgingFlags(command).option('--data <files...>', 'submissions that both versions judge: which of them change their verdict');
  formatFlag(command);
  moreHelp(command, 'jestril compare main:src/intakes.ts src/intakes.ts --intake booking --data yesterday.ndjson', [
    [0, 'nothing that was accepted is refused now'],
    [1, 'something that was accepted is refused now'],
    [2, 'something changed of which no example was found'],
    MISUSE,
    FAILED,
  ]).action((old: string, next: string, flags: CompareFlags) =>
    run(async () => (await import('./compare.ts')).compare(old, next, flags, context)),
  );
}
