import { parseArgs } from 'node:util';
import { InvalidInput } from '@idle-bend/core/foundation';
import {
  parseDecimal,
  parseRate,
  parseTimecode,
  rational,
  multiply,
  secondsToFrames,
  type Rate,
  type Rational,
} from '@idle-bend/core/time';

/** A command called in a way it cannot be: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export interface OptionKind {
  readonly type: 'string' | 'boolean';
  /** May be given several times. */
  readonly multiple?: true;
  /** Said by --help. */
  readonly help: string;
}

/** Of commands that take a project: where it is one of a server's. */
export const DATA_OPTION: OptionKind = {
  type: 'string',
  help: 'DIR  a server’s data folder: PROJECT is then a name or an id in it',
};

export type Values = Readonly<Record<string, string | boolean | readonly string[] | undefined>>;

/** Reads a command's arguments; unknown options are refused by name. Throws `UsageError`. */
export function readOptions(
  args: readonly string[],
  known: Readonly<Record<string, OptionKind>>,
  operands: readonly string[],
): { values: Values; operands: string[] } {
  const options: Record<string, { type: 'string' | 'boolean'; short?: string; multiple?: boolean }> = {
    output: { type: 'string', short: 'o' },
    help: { type: 'boolean', short: 'h' },
  };
  for (const [name, { type, multiple = false }] of Object.entries(known))
    options[name] = { ...options[name], type, multiple };
  let parsed: ReturnType<typeof parseArgs>;
  try {
    parsed = parseArgs({ args: [...args], options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new UsageError((error as Error).message.replace(/\. To specify a positional.*$/s, ''));
  }
  const values = parsed.values as Values;
  if (values['help']) return { values, operands: [] };
  if (parsed.positionals.length < operands.length)
    throw new UsageError(`${operands[parsed.positionals.length]} is missing`);
  if (parsed.positionals.length > operands.length)
    throw new UsageError(`"${parsed.positionals[operands.length]}" is one argument too many`);
  return { values, operands: parsed.positionals };
}

export function text(values: Values, name: string): string | undefined {
  return values[name] as string | undefined;
}

/** All that was given of an option that may be given several times. */
export const texts = (values: Values, name: string): readonly string[] => (values[name] ?? []) as readonly string[];

export function rateOption(values: Values, name: string): Rate | undefined {
  const value = text(values, name);
  return value === undefined ? undefined : parseRate(value, `--${name}`);
}

/** A percentage as an exact ratio; above 0, up to 10,000. */
export function percentOption(values: Values, name: string): Rational | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  const ratio = multiply(parseDecimal(value.replace(/\s*%$/, ''), `--${name}`), rational(1n, 100n));
  if (ratio.num <= 0n) throw new InvalidInput(`--${name}`, 'must be above 0; --reverse turns a clip round');
  if (ratio.num > ratio.den * 100n) throw new InvalidInput(`--${name}`, 'must be at most 10000');
  return ratio;
}

export function countOption(values: Values, name: string, most = 100_000_000): number | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  if (!/^\d{1,12}$/.test(value) || Number(value) < 1 || Number(value) > most)
    throw new InvalidInput(`--${name}`, `"${value}" is not a whole number from 1 to ${most}`);
  return Number(value);
}

/** A number from 0 to `most`. */
export function numberOption(values: Values, name: string, most: number): number | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  if (!/^\d{1,6}(\.\d{1,6})?$/.test(value) || Number(value) > most)
    throw new InvalidInput(`--${name}`, `"${value}" is not a number from 0 to ${most}`);
  return Number(value);
}

export function choiceOption<T extends string>(values: Values, name: string, choices: readonly T[]): T | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  if (!choices.includes(value as T))
    throw new InvalidInput(`--${name}`, `"${value}" is not one of ${choices.join(', ')}`);
  return value as T;
}

/** A position or length: `120f`, `4.5s` or `HH:MM:SS:FF`, as a whole number of frames at `rate`. */
export function framesOption(values: Values, name: string, rate: Rate): number | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  const frames = /^(\d{1,12})f$/.exec(value);
  if (frames) return Number(frames[1]);
  const seconds = /^(\d{1,9}(?:\.\d{1,9})?)s$/.exec(value);
  if (seconds) return Math.round(secondsToFrames(Number(seconds[1]), rate));
  if (value.includes(':')) return parseTimecode(value, rate, `--${name}`);
  throw new InvalidInput(`--${name}`, `"${value}" is not a place in time; write 120f, 4.5s or 00:00:04:12`);
}

export function sizeOption(values: Values, name: string): { width: number; height: number } | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  const match = /^(\d{1,5})x(\d{1,5})$/.exec(value);
  const [width, height] = [Number(match?.[1]), Number(match?.[2])];
  if (!match || width < 2 || height < 2 || width > 16384 || height > 16384)
    throw new InvalidInput(`--${name}`, `"${value}" is not a size; write 1280x720`);
  return { width, height };
}
