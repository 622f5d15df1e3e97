import type { Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import type { CompileFlags } from './compile.ts';

export function compileCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = program
    .command('compile')
    .description("Write the code of a module's intakes ahead of time, for pages that allow no code to be made.")
    .argument('<module>', MODULE)
    .option('--intake <name>', 'one intake only')
    .option('--out <file.js>', 'where the code goes (default: beside the module, as <module>.code.js)');
  moreHelp(command, 'jestril compile src/intakes.ts', [[0, 'written'], MISUSE, FAILED]).action((module: string, flags: CompileFlags) =>
    run(async () => (await import('./compile.ts')).compile(module, flags, context.warn)),
  );
}
