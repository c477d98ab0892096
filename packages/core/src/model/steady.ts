import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields } from '../foundation/readers.js';

/** A turn, growth and shift of the picture about its middle: p goes to scale · R(angle) · p + (x, y). Places in widths of the picture. */
export interface Similarity {
  readonly scale: number;
  /** Radians clockwise. */
  readonly angle: number;
  readonly x: number;
  readonly y: number;
}

/** Whether the picture stands still, or moves on evenly without its shake. */
const STEADY_KEEPS = ['still', 'move'] as const;

export type SteadyKeeps = (typeof STEADY_KEEPS)[number];

/** A square of the picture: its middle and its side, in widths of the picture from its middle. */
export interface Patch {
  readonly x: number;
  readonly y: number;
  readonly size: number;
}

/** A stretch of a clip's source, in native frames, that is held steady: how each of its frames is laid, and closer by how much. */
export interface Steady {
  readonly from: number;
  readonly to: number;
  readonly keeps: SteadyKeeps;
  /** The patch that is held; without one the whole picture. */
  readonly patch: Patch | null;
  /** Just so much closer that no edge comes into sight. */
  readonly scale: number;
  /** For the frames from … to, both included. */
  readonly path: readonly Similarity[];
}

const MAX_STEADY_FRAMES = 20_000;

export function checkStretch(from: number, to: number, last: number): void {
  if (!(Number.isInteger(from) && Number.isInteger(to) && from >= 0 && to > from && to <= last))
    throw new InvalidInput(
      'steady',
      `frames ${from} to ${to} are not a stretch of the source, which has frames 0 to ${last}`,
    );
  if (to - from > MAX_STEADY_FRAMES)
    throw new InvalidInput(
      'steady',
      `${to - from} frames are more than the ${MAX_STEADY_FRAMES} that can be held at once`,
    );
}

/** Reads what holds a clip steady from a document. Throws `InvalidInput` naming the place. */
export function readSteady(value: unknown, field: string, frames: number): Steady {
  const s = object(value, field);
  onlyFields(s, ['from', 'to', 'keeps', 'patch', 'scale', 'path'], field);
  const number = (of: Record<string, unknown>, name: string, at = field) => finite(of[name], `${at}.${name}`);
  const [from, to] = [number(s, 'from'), number(s, 'to')];
  checkStretch(from, to, frames - 1);
  const path = array(s['path'], `${field}.path`, MAX_STEADY_FRAMES + 1).map((entry, i): Similarity => {
    const at = `${field}.path[${i}]`;
    const one = object(entry, at);
    onlyFields(one, ['scale', 'angle', 'x', 'y'], at);
    return {
      scale: number(one, 'scale', at),
      angle: number(one, 'angle', at),
      x: number(one, 'x', at),
      y: number(one, 'y', at),
    };
  });
  if (path.length !== to - from + 1)
    throw new InvalidInput(`${field}.path`, `has ${path.length} entries for ${to - from + 1} frames`);
  const bad = path.findIndex(({ scale }) => !(scale > 0.01 && scale < 100));
  if (bad >= 0) throw new InvalidInput(`${field}.path[${bad}].scale`, 'is not a scale');
  const scale = number(s, 'scale');
  if (!(scale >= 1 && scale <= 100)) throw new InvalidInput(`${field}.scale`, 'must be 1 or more');
  return {
    from,
    to,
    keeps: oneOf(s['keeps'], STEADY_KEEPS, `${field}.keeps`),
    patch: s['patch'] === null ? null : readPatch(s['patch'], `${field}.patch`),
    scale,
    path,
  };
}

function readPatch(value: unknown, field: string): Patch {
  const p = object(value, field);
  onlyFields(p, ['x', 'y', 'size'], field);
  const patch = {
    x: finite(p['x'], `${field}.x`),
    y: finite(p['y'], `${field}.y`),
    size: finite(p['size'], `${field}.size`),
  };
  if (!(Math.abs(patch.x) <= 0.5 && Math.abs(patch.y) <= 2 && patch.size > 0.01 && patch.size <= 1))
    throw new InvalidInput(field, 'is not a patch of the picture');
  return patch;
}
