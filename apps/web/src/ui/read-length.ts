import { InvalidInput } from '@idle-bend/core/foundation';

/** A length as typed: frames, or seconds ("1.5s"). Throws `InvalidInput`. */
export function readLength(typed: string, fps: number): number {
  const match = /^(\d+(?:\.\d+)?)\s*(f|s)?$/.exec(typed.trim());
  if (!match) throw new InvalidInput('length', `"${typed}" is not a length in frames or seconds`);
  return match[2] === 's' ? Number(match[1]) * fps : Number(match[1]);
}
