import type { Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, formatFlag, intakeFlag, MISUSE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import type { ProveFlags } from './prove.ts';

export function proveCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program
      .command('prove')
      .description('Run the samples of rules and the submissions of proofs, and tell what nothing tries.')
      .argument('<modules...>', 'modules that export rules, intakes, or "proofs" (lists of what is accepted and rejected)'),
  ).option('--changes', 'change the rules one at a time, and tell which changes no sample notices');
  formatFlag(command);
  moreHelp(command, 'jestril prove examples/marina/proof.ts --changes', [
    [0, 'everything came out as expected'],
    [1, 'something did not'],
    [2, 'as expected, but some changes are noticed by nothing (with --changes)'],
    MISUSE,
    FAILED,
  ]).action((modules: string[], flags: ProveFlags) => run(async () => (await import('./prove.ts')).proveModules(modules, flags, context)));
}
