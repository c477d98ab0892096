import { InvalidInput } from '../errors.js';
import { array, finite, object, oneOf, onlyFields } from '../project/read.js';
import type { SourceMotion } from '../rough/source-motion.js';
import { after, IDENTITY, inverse, moved, ofCamera, partOf, type Similarity } from './similarity.js';

/** Whether the picture stands still, or moves on evenly without its shake. */
export const STEADY_KEEPS = ['still', 'move'] as const;
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

/** Frames on either side over which an even movement is taken. */
const EVEN = 15;
/** Source frames over which it comes and goes outside its stretch. */
const SOFT = 8;
export const LONGEST_STEADY = 20_000;

/** Holds the whole picture by the camera's motion. `aspect` is the picture's width over its height. Throws `InvalidInput`. */
export function steadyWhole(
  { pairs }: SourceMotion,
  from: number,
  to: number,
  keeps: SteadyKeeps,
  aspect: number,
): Steady {
  checkStretch(from, to, pairs.length);
  // How what is seen at the beginning has moved by then.
  const way = [IDENTITY];
  for (let n = from; n < to; n++) way.push(after(way.at(-1)!, ofCamera(pairs[n]!.camera)));
  return laid({ from, to, keeps, patch: null }, way, aspect);
}

/** Holds a patch whose middle was at those places (widths of the picture from its middle), frame by frame. */
export function steadyPatch(
  places: readonly (readonly [number, number])[],
  from: number,
  keeps: SteadyKeeps,
  patch: Patch,
  aspect: number,
): Steady {
  const to = from + places.length - 1;
  checkStretch(from, to, to);
  const [first] = places;
  const way = places.map(([x, y]): Similarity => ({ ...IDENTITY, x: x - first![0], y: y - first![1] }));
  return laid({ from, to, keeps, patch }, way, aspect);
}

function checkStretch(from: number, to: number, last: number): void {
  if (!(Number.isInteger(from) && Number.isInteger(to) && from >= 0 && to > from && to <= last))
    throw new InvalidInput(
      'steady',
      `frames ${from} to ${to} are not a stretch of the source, which has frames 0 to ${last}`,
    );
  if (to - from > LONGEST_STEADY)
    throw new InvalidInput(
      'steady',
      `${to - from} frames are more than the ${LONGEST_STEADY} that can be held at once`,
    );
}

function laid(
  steady: Pick<Steady, 'from' | 'to' | 'keeps' | 'patch'>,
  way: readonly Similarity[],
  aspect: number,
): Steady {
  const middle = way[way.length >> 1]!;
  const path = way.map((here, i) => after(inverse(here), steady.keeps === 'still' ? middle : evened(way, i)));
  return { ...steady, path, scale: fillingScale(path, aspect) };
}

/** The mean of the way around a frame; at its ends of what there is on both sides alike, so that an even movement stays. */
function evened(way: readonly Similarity[], i: number): Similarity {
  const half = Math.min(EVEN, i, way.length - 1 - i);
  let [scale, angle, x, y] = [0, 0, 0, 0];
  for (let n = i - half; n <= i + half; n++) {
    scale += Math.log(way[n]!.scale);
    angle += way[n]!.angle;
    x += way[n]!.x;
    y += way[n]!.y;
  }
  const count = 2 * half + 1;
  return { scale: Math.exp(scale / count), angle: angle / count, x: x / count, y: y / count };
}

/** How much closer the picture has to be that every frame laid so fills it: every corner then lies within the source. */
export function fillingScale(path: readonly Similarity[], aspect: number): number {
  const [halfX, halfY] = [0.5, 0.5 / aspect];
  const fills = (scale: number) =>
    path.every((lay) => {
      const back = inverse(closer(lay, scale));
      return [-1, 1].every((sx) =>
        [-1, 1].every((sy) => {
          const [x, y] = moved(back, sx * halfX, sy * halfY);
          return Math.abs(x) <= halfX + 1e-9 && Math.abs(y) <= halfY + 1e-9;
        }),
      );
    });
  let [low, high] = [1, 1];
  while (!fills(high) && high < 16) high *= 1.25;
  if (fills(1)) return 1;
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    if (fills(middle)) high = middle;
    else low = middle;
  }
  return high;
}

const closer = ({ scale, angle, x, y }: Similarity, by: number): Similarity => ({
  scale: scale * by,
  angle,
  x: x * by,
  y: y * by,
});

/** How the picture is laid at a native position, between frames too; nothing away from the stretch. */
export function steadyAt({ from, to, scale, path }: Steady, frame: number): Similarity | undefined {
  const outside = Math.max(from - frame, frame - to, 0);
  if (outside >= SOFT) return undefined;
  const at = Math.max(0, Math.min(path.length - 1, frame - from));
  const [a, b] = [path[Math.floor(at)]!, path[Math.min(path.length - 1, Math.floor(at) + 1)]!];
  const share = at - Math.floor(at);
  const mixed = (p: number, q: number) => p + (q - p) * share;
  const now = {
    scale: mixed(a.scale, b.scale),
    angle: mixed(a.angle, b.angle),
    x: mixed(a.x, b.x),
    y: mixed(a.y, b.y),
  };
  return partOf(closer(now, scale), 1 - outside / SOFT);
}

/** Reads what holds a clip steady from a document. Throws `InvalidInput` naming the place. */
export function readSteady(value: unknown, field: string, frames: number): Steady {
  const s = object(value, field);
  onlyFields(s, ['from', 'to', 'keeps', 'patch', 'scale', 'path'], field);
  const number = (of: Record<string, unknown>, name: string, at = field) => finite(of[name], `${at}.${name}`);
  const [from, to] = [number(s, 'from'), number(s, 'to')];
  checkStretch(from, to, frames - 1);
  const path = array(s['path'], `${field}.path`, LONGEST_STEADY + 1).map((entry, i): Similarity => {
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
