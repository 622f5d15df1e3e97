import { type Command, InvalidArgumentError, Option } from 'commander';

// Options that several commands have.

export const MODULE = 'TypeScript or JavaScript module that exports intakes';

export function intakeFlag(command: Command): Command {
  return command.option('--intake <name>', 'the intake, where the module exports several');
}

export function formatFlag(command: Command, formats: readonly string[] = ['text', 'json']): Command {
  return command.addOption(new Option('--format <format>', 'text for people, json for programs').choices(formats).default(formats[0]));
}

/** Help that goes on with an example that works, and the exit codes. */
export function moreHelp(command: Command, example: string, exits: readonly (readonly [code: number, means: string])[]): Command {
  const codes = exits.map(([code, means]) => `  ${code}  ${means}`).join('\n');
  return command.addHelpText('after', `\nExample:\n  ${example}\n\nExit codes:\n${codes}`);
}

export const MISUSE = [3, 'misuse: a wrong option, a file that is missing or unreadable, a module that does not load'] as const;
export const FAILED = [4, 'the command itself failed'] as const;

/** A whole number above zero. */
export function wholeNumber(text: string): number {
  if (!/^[1-9]\d{0,8}$/.test(text)) throw new InvalidArgumentError('It has to be a whole number, 1 or more.');
  return Number(text);
}

/** A share of all: `5%`, or `0.05`. */
export function share(text: string): number {
  const [, digits, percent] = /^(\d{1,3}(?:\.\d+)?|\.\d+)(%?)$/.exec(text) ?? [];
  const value = digits === undefined ? Number.NaN : Number(digits) / (percent ? 100 : 1);
  if (!(value >= 0 && value <= 1)) throw new InvalidArgumentError('It has to be a share, such as 5% or 0.05.');
  return value;
}
