import { InvalidInput } from './errors.js';

/** Readers for JSON from outside: each returns the value as its type or throws `InvalidInput` naming the place. */

export function object(value: unknown, field: string): Record<string, unknown> {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new InvalidInput(field, 'must be an object');
  return value as Record<string, unknown>;
}

export function onlyFields(value: Record<string, unknown>, known: readonly string[], field: string): void {
  const other = Object.keys(value).find((key) => !known.includes(key));
  if (other !== undefined)
    throw new InvalidInput(field, `has a field "${other.slice(0, 60)}" that this version does not know`);
}

export function array(value: unknown, field: string, most = 1_000_000): readonly unknown[] {
  if (!Array.isArray(value)) throw new InvalidInput(field, 'must be a list');
  if (value.length > most) throw new InvalidInput(field, `has ${value.length} entries; ${most} is the most`);
  return value;
}

export function finite(value: unknown, field: string): number {
  if (typeof value !== 'number' || !Number.isFinite(value)) throw new InvalidInput(field, 'must be a finite number');
  return value;
}

export function whole(value: unknown, field: string, low = 0, high = Number.MAX_SAFE_INTEGER): number {
  const n = finite(value, field);
  if (!Number.isSafeInteger(n) || n < low || n > high)
    throw new InvalidInput(field, `must be a whole number from ${low} to ${high}`);
  return n;
}

export function string(value: unknown, field: string, longest = 500): string {
  if (typeof value !== 'string') throw new InvalidInput(field, 'must be text');
  if (value.length > longest) throw new InvalidInput(field, `is longer than ${longest} characters`);
  return value;
}

export function oneOf<T extends string>(value: unknown, choices: readonly T[], field: string): T {
  if (!choices.includes(value as T)) throw new InvalidInput(field, `must be one of ${choices.join(', ')}`);
  return value as T;
}

export function boolean(value: unknown, field: string): boolean {
  if (typeof value !== 'boolean') throw new InvalidInput(field, 'must be true or false');
  return value;
}

/** Throws `InvalidInput` where two entries have the same id. */
export function unique(entries: readonly { readonly id: string }[], field: string): void {
  const seen = new Set<string>();
  for (const { id } of entries) {
    if (seen.has(id)) throw new InvalidInput(field, `has the id "${id}" twice`);
    seen.add(id);
  }
}

export function readId(value: unknown, field: string): string {
  const id = string(value, field, 64);
  if (!/^[\w-]+$/.test(id)) throw new InvalidInput(field, 'must be made of letters, digits, _ and -');
  return id;
}
