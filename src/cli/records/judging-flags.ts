import type { Command } from 'commander';
import { ADDRESSES } from '../databases/databases.ts';

/** How submissions are judged. */
export function judgingFlags(command: Command): Command {
  return command
    .option('--records <where>', `rows of the collections: a JSON file, a database (${ADDRESSES}), or a module that exports "records"`)
    .option('--given <json>', 'given fields, as a JSON file or as JSON')
    .option('--locale <tag>', 'language of the messages (BCP 47)', 'en')
    .option('--now <moment>', 'the moment that counts as now, such as 2031-05-01T09:00:00Z (default: the clock)')
    .option('--occasion <name>', "one of the intake's occasions (default: its first)");
}
