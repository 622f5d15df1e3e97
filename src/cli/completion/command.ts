import { Argument, type Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, MISUSE, moreHelp } from '../basics/flags.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';

export function completionCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = program
    .command('completion')
    .description('Write what completes commands and options in a shell.')
    .addArgument(new Argument('<shell>', 'the shell').choices(['bash', 'zsh', 'fish']));
  moreHelp(command, 'jestril completion bash > ~/.local/share/bash-completion/completions/jestril', [
    [0, 'written'],
    MISUSE,
    FAILED,
  ]).action((shell: string) =>
    run(async () => {
      const { completionFor } = await import('./completion.ts');
      await context.out(completionFor(program, shell as 'bash' | 'zsh' | 'fish'));
      return EXIT.accepted;
    }),
  );
}
