import { InvalidInput } from '@idle-bend/core/foundation';

/** Reads a typed number that may carry its unit. Throws `InvalidInput` saying what it was to be. */
export function typedNumber(typed: string, unit: RegExp | undefined, what: string): number {
  const bare = (unit ? typed.replace(unit, '') : typed).replace('−', '-').replace(',', '.').trim();
  const value = Number(bare);
  if (bare === '' || !Number.isFinite(value)) throw new InvalidInput('number', `"${typed}" is not a number of ${what}`);
  return value;
}
