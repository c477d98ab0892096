import { readOptions, UsageError } from './options.js';

const SHELLS = ['bash', 'zsh', 'fish'] as const;

/** What a shell completes: commands, their options, else files. */
export const completion = (commands: () => Promise<Readonly<Record<string, readonly string[]>>>) => ({
  usage: 'idle-bend completion bash|zsh|fish',
  about: 'A script for a shell that completes commands and options: for bash, eval "$(idle-bend completion bash)".',
  options: {},
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { operands } = readOptions(args, {}, ['SHELL']);
    const shell = SHELLS.find((one) => one === operands[0]);
    if (!shell) throw new UsageError(`"${operands[0]}" is not one of ${SHELLS.join(', ')}`);
    const all = await commands();
    print(
      shell === 'fish'
        ? fish(all)
        : shell === 'zsh'
          ? `autoload -U +X bashcompinit && bashcompinit\n${bash(all)}`
          : bash(all),
    );
    return 0;
  },
});

const bash = (commands: Readonly<Record<string, readonly string[]>>) =>
  [
    '_idle_bend() {',
    '  local word=${COMP_WORDS[COMP_CWORD]} words=""',
    '  if [ "$COMP_CWORD" -eq 1 ]; then',
    `    words="${[...Object.keys(commands), 'help', '--version'].join(' ')}"`,
    '  else case "${COMP_WORDS[1]}" in',
    ...Object.entries(commands).map(
      ([name, options]) => `    ${name}) words="${[...options, 'help'].map((one) => `--${one}`).join(' ')}" ;;`,
    ),
    '  esac; fi',
    '  COMPREPLY=($(compgen -W "$words" -- "$word"))',
    '}',
    'complete -o default -F _idle_bend idle-bend',
  ].join('\n');

const fish = (commands: Readonly<Record<string, readonly string[]>>) =>
  Object.entries(commands)
    .flatMap(([name, options]) => [
      `complete -c idle-bend -n __fish_use_subcommand -f -a ${name}`,
      ...options.map((one) => `complete -c idle-bend -n '__fish_seen_subcommand_from ${name}' -l ${one}`),
    ])
    .join('\n');
