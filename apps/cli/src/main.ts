import { readFileSync } from 'node:fs';
import { UsageError, type OptionKind } from './options.js';

const VERSION = (JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as { version: string })
  .version;

interface Command {
  readonly usage: string;
  readonly about: string;
  readonly options: Readonly<Record<string, OptionKind>>;
  run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number>;
}

/** Commands load when they are called, so that a short one starts fast. */
const COMMANDS: Readonly<Record<string, () => Promise<Command>>> = {
  inspect: async () => (await import('./inspect.js')).inspect,
  retime: async () => (await import('./retime.js')).retime,
  map: async () => (await import('./map.js')).map,
  land: async () => (await import('./land.js')).land,
  beats: async () => (await import('./beats.js')).beats,
  export: async () => (await import('./export.js')).exportProject,
  import: async () => (await import('./import.js')).importFile,
  render: async () => (await import('./render.js')).render,
  cues: async () => (await import('./cues.js')).cues,
  worker: async () => (await import('./worker.js')).worker,
  completion: async () => (await import('./completion.js')).completion(optionsOfAll),
};

async function optionsOfAll(): Promise<Record<string, readonly string[]>> {
  const all = Object.entries(COMMANDS)
    .filter(([name]) => name !== 'completion')
    .map(async ([name, load]) => [name, Object.keys((await load()).options)] as const);
  return Object.fromEntries([...(await Promise.all(all)), ['completion', []]]);
}

/** Ends at once; what is half made goes with the process (see `holdScratch`). */
function endOnSignals(): void {
  for (const [signal, code] of [
    ['SIGINT', 130],
    ['SIGTERM', 143],
    ['SIGHUP', 129],
  ] as const)
    process.once(signal, () => process.exit(code));
}

const HELP = `idle-bend: retimes clips with speed curves

  idle-bend inspect FILE [--json]        what a file is
  idle-bend retime IN -o OUT [options]   render one clip at a speed, to a length, or along a map
  idle-bend map … --count N              the numbers of a map, no video touched
  idle-bend land --map M --landings L    bend a map so that moments show on their cues
  idle-bend beats SOUND [--json]         tempo, beats, bars and onsets of a sound
  idle-bend render PROJECT -o OUT        render a whole project, picture and sound
  idle-bend export PROJECT --as …        hand a project over: OpenTimelineIO, EDL, frame map, sound, bundle
  idle-bend import FILE -o OUT.json      make a project of a bundle, OpenTimelineIO or EDL
  idle-bend cues FILE|PROJECT -o OUT     cues as separated values, WebVTT or MIDI
  idle-bend worker --data DIR | --server URL   make chunks of a server’s renders

  idle-bend completion bash|zsh|fish     a script that completes commands and options

Every command has --help, or: idle-bend help COMMAND; --version tells the version. A file called - is standard input or
output where it is text. Exit code: 0 done, 1 failed, 2 wrong usage, 130 after Ctrl-C.`;

/** Runs a command line and returns its exit code. */
export async function main(args: readonly string[]): Promise<number> {
  const print = (text: string) => void process.stdout.write(text + '\n');
  const progress = (text: string) => void process.stderr.write(text + '\n');
  if (args[0] === '--version') {
    print(VERSION);
    return 0;
  }
  // "help retime" is "retime --help".
  const [name, ...rest] = args[0] === 'help' && args.length > 1 ? [...args.slice(1), '--help'] : args;
  if (name === undefined || name === '--help' || name === '-h' || name === 'help') {
    print(HELP);
    return name === undefined ? 2 : 0;
  }
  const load = COMMANDS[name];
  if (!load) {
    progress(`idle-bend: there is no command "${name}"; --help lists them`);
    return 2;
  }
  const command = await load();
  if (rest.includes('--help') || rest.includes('-h')) {
    const width = Math.max(...Object.keys(command.options).map((o) => o.length));
    print(
      `${command.usage}\n\n${command.about}\n\n${Object.entries(command.options)
        .map(([o, { help }]) => `  --${o.padEnd(width)}  ${help}`)
        .join('\n')}`,
    );
    return 0;
  }
  // A worker ends in its own time: what it has begun goes back to the queue.
  if (name !== 'worker') endOnSignals();
  try {
    return await command.run(rest, print, progress);
  } catch (error) {
    const { message, name: kind } = error as Error;
    const wrongUsage = error instanceof UsageError || (kind === 'InvalidInput' && /^(-o|--)/.test(message));
    progress(`idle-bend ${name}: ${message}${wrongUsage ? ` (idle-bend ${name} --help)` : ''}`);
    return wrongUsage ? 2 : 1;
  }
}
