import type { Command } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, intakeFlag, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import type { ExportFlags } from './languages/language.ts';
import { LANGUAGES } from './languages.ts';

export function exportCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const all = Object.values(LANGUAGES);
  const command = intakeFlag(
    program
      .command('export')
      .description(`Write intakes in other languages: ${all.map(({ called }) => called).join(', ')}.`)
      .argument('<language>', Object.keys(LANGUAGES).join(', '))
      .argument('<module>', `${MODULE}; for OpenAPI also "routes"`),
  );
  for (const option of all.flatMap(({ options = [] }) => options)) command.addOption(option);
  command
    .option('--locale <tag>', 'language of titles and labels', 'en')
    .option('--strict', 'exit with 1 where something cannot be said')
    .option('--out <file>', 'where it goes (default: standard output)');
  moreHelp(command, 'jestril export json-schema examples/marina/index.ts --intake berth-booking --out booking.schema.json', [
    [0, 'written; what the language cannot say is listed on standard error'],
    [1, 'with --strict: something cannot be said'],
    MISUSE,
    FAILED,
  ]).action((language: string, module: string, flags: ExportFlags) =>
    run(async () => (await import('./export.ts')).exportAs(language, module, flags, context)),
  );
}
