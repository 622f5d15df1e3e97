import { type Command, Option } from 'commander';
import type { Context } from '../basics/context.ts';
import { FAILED, MISUSE, moreHelp } from '../basics/flags.ts';
import type { Exit } from '../basics/misuse.ts';
import { ADDRESSES } from '../databases/databases.ts';
import type { NewFlags } from './sources.ts';

export function newCommand(program: Command, context: Context, run: (work: () => Promise<Exit>) => Promise<void>): void {
  const command = program
    .command('new')
    .description('Write a first intake, its proof and data to try it with, from fields that are named or from what is there already.')
    .argument('<name>', 'what the intake is called, such as berth-booking')
    .argument(
      '[fields...]',
      'fields: name, nights:whole, notes?:text, pier:north|south, marks:text[] (none on a terminal: they are asked for)',
    )
    .option('--from <where>', `a JSON Schema, an OpenAPI document, rows (CSV, NDJSON, JSON), or a database (${ADDRESSES})`)
    .option('--table <name>', 'the table of the database (default: the name of the intake)')
    .option('--schema <name>', 'the schema of the document, where it has several')
    .addOption(
      new Option('--input <format>', 'how rows are read (default: by name and content)').choices(['json', 'ndjson', 'csv', 'form']),
    )
    .option('--delimiter <character>', 'what stands between the cells of a CSV (default: found)')
    .option('--to <folder>', 'where the files go', '.');
  moreHelp(command, 'jestril new guest name email:email nights:whole notes?:text pier:north\\|south', [
    [0, 'written; everything is as expected, and what it came from is accepted'],
    [1, 'written, but some rows that it came from are not accepted'],
    MISUSE,
    FAILED,
  ]).action((name: string, fields: string[], flags: NewFlags) =>
    run(async () => (await import('./new.ts')).newIntake(name, fields, flags, context)),
  );
}
