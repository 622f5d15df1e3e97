import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, intakeFlag, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import type { DescribeFlags } from './describe.ts';

export function describeCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program
      .command('describe')
      .description('Describe intakes for people: fields, rules as sentences, and for each rule an example that it refuses.')
      .argument('<module>', MODULE),
  )
    .addOption(
      new Option('--format <format>', 'text, a Markdown or HTML page, or json')
        .choices(['text', 'markdown', 'html', 'json'])
        .default('text'),
    )
    .option('--locale <tag>', 'language, as far as the intake speaks it', 'en')
    .option('--now <moment>', 'the moment at which examples are judged (default: the clock)')
    .option('--occasion <name>', "one of the intake's occasions (default: its first)")
    .option('--no-examples', 'without examples')
    .option('--out <file>', 'where it goes (default: standard output)');
  moreHelp(command, 'jestril describe examples/marina/index.ts --intake berth-booking --format html --out booking.html', [
    [0, 'described'],
    MISUSE,
    FAILED,
  ]).action((module: string, flags: DescribeFlags) => run(async () => (await import('./describe.ts')).describe(module, flags, context)));
}
