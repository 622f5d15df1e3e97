import type { Command, Option } from 'commander';

interface Described {
  readonly name: string;
  readonly description: string;
  readonly options: readonly Option[];
  /** Commands of its own, whose options are completed with it. */
  readonly inner: readonly { readonly name: string; readonly description: string }[];
}

/** A shell's own completion of the commands, their options, the options' choices, and files. */
export function completionFor(program: Command, shell: 'bash' | 'zsh' | 'fish'): string {
  const commands = program.commands.map((command): Described => {
    const options = [command, ...command.commands].flatMap((each) => each.options);
    return {
      name: command.name(),
      description: command.description(),
      options: [...new Map(options.map((option) => [option.long, option])).values()],
      inner: command.commands.map((each) => ({ name: each.name(), description: each.description() })),
    };
  });
  return { bash, zsh, fish }[shell](commands);
}

function bash(commands: readonly Described[]): string {
  const cases = commands.map(({ name, options, inner }) => {
    const named = inner.map((each) => each.name).join(' ');
    const first = named === '' ? '' : `    if [ "$COMP_CWORD" -eq 2 ]; then COMPREPLY=($(compgen -W '${named}' -- "$word")); return; fi\n`;
    const choices = options
      .filter(({ argChoices }) => argChoices)
      .map(({ long, argChoices }) => `      ${long}) COMPREPLY=($(compgen -W '${argChoices?.join(' ')}' -- "$word")); return ;;`);
    const words = options.map(({ long }) => long).join(' ');
    return `  ${name})
${first}    case "$before" in
${choices.join('\n')}
    esac
    case "$word" in -*) COMPREPLY=($(compgen -W '${words} --help' -- "$word")); return ;; esac ;;`;
  });
  return `# bash completion of jestril
_jestril() {
  local word="\${COMP_WORDS[COMP_CWORD]}" before="\${COMP_WORDS[COMP_CWORD-1]}"
  COMPREPLY=()
  if [ "$COMP_CWORD" -eq 1 ]; then COMPREPLY=($(compgen -W '${commands.map(({ name }) => name).join(' ')} help' -- "$word")); return; fi
  case "\${COMP_WORDS[1]}" in
${cases.join('\n')}
  esac
  COMPREPLY=($(compgen -f -- "$word"))
}
complete -o filenames -F _jestril jestril
`;
}

function zsh(commands: readonly Described[]): string {
  const quoted = (text: string) => text.replaceAll("'", "'\\''").replaceAll('[', '\\[').replaceAll(']', '\\]').replaceAll(':', '\\:');
  const cases = commands.map(({ name, options, inner }) => {
    const words = inner.length === 0 ? [] : [`'1:command:(${inner.map((own) => own.name).join(' ')})'`];
    const each = options.map(({ long, description, argChoices, required }) => {
      const takes = argChoices ? `:value:(${argChoices.join(' ')})` : required ? ':value:_files' : '';
      return `'${long}[${quoted(description)}]${takes}'`;
    });
    return `    ${name}) _arguments ${[...each, ...words, "'*:file:_files'"].join(' ')} ;;`;
  });
  return `#compdef jestril
_jestril() {
  local -a commands=(${commands.map(({ name, description }) => `'${name}:${quoted(description)}'`).join(' ')})
  if (( CURRENT == 2 )); then _describe command commands; return; fi
  local command=$words[2]
  shift words
  (( CURRENT-- ))
  case $command in
${cases.join('\n')}
  esac
}
_jestril "$@"
`;
}

function fish(commands: readonly Described[]): string {
  const quoted = (text: string) => `'${text.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}'`;
  const lines = commands.flatMap(({ name, description, options, inner }) => [
    ...inner.map((own) => `complete -c jestril -n '__fish_seen_subcommand_from ${name}' -a ${own.name} -d ${quoted(own.description)}`),
    `complete -c jestril -n __fish_use_subcommand -f -a ${name} -d ${quoted(description)}`,
    ...options.map(({ long, description: told, argChoices, required }) => {
      const takes = argChoices ? ` -x -a ${quoted(argChoices.join(' '))}` : required ? ' -r' : '';
      return `complete -c jestril -n '__fish_seen_subcommand_from ${name}' -l ${long?.slice(2)}${takes} -d ${quoted(told)}`;
    }),
  ]);
  return `# fish completion of jestril\n${lines.join('\n')}\n`;
}
