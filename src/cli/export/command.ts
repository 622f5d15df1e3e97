import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, intakeFlag, MISUSE, MODULE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import type { ExportFlags } from './export.ts';

export function exportCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = intakeFlag(
    program
      .command('export')
      .description('Write intakes in other languages: JSON Schema, OpenAPI, TypeScript, SQL, an HTML form.')
      .argument('<language>', 'json-schema, openapi, typescript, sql or html-form')
      .argument('<module>', `${MODULE}; for OpenAPI also "routes"`),
  )
    .addOption(
      new Option('--of <what>', 'of JSON Schema: what may be sent, a merge patch, or what is sent on')
        .choices(['received', 'amended', 'sent'])
        .default('received'),
    )
    .addOption(new Option('--dialect <dialect>', 'of SQL').choices(['postgres', 'mysql', 'sqlite']).default('postgres'))
    .option('--title <title>', 'of OpenAPI', 'Service')
    .option('--version-of <version>', 'of OpenAPI: the version of the service', '1.0.0')
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
