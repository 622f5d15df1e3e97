import { auditCommand } from './audit/command.ts';
import { checkCommand } from './check/command.ts';
import { compareCommand } from './compare/command.ts';
import { compileCommand } from './compile/command.ts';
import { completionCommand } from './completion/command.ts';
import { describeCommand } from './describe/command.ts';
import { exportCommand } from './export/command.ts';
import { graphCommand } from './graph/command.ts';
import { newCommand } from './new/command.ts';
import { proveCommand } from './prove/command.ts';
import { screenCommand } from './screen/command.ts';
import { serveCommand } from './serve/command.ts';

/** Every command, in the order in which help lists them. */
export const COMMANDS = [
  newCommand,
  checkCommand,
  screenCommand,
  serveCommand,
  proveCommand,
  describeCommand,
  graphCommand,
  exportCommand,
  compareCommand,
  auditCommand,
  compileCommand,
  completionCommand,
];
