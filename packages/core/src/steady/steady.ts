import { checkStretch, type Patch, type Similarity, type Steady, type SteadyKeeps } from '../model/steady.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { after, IDENTITY, inverse, moved, ofCamera, partOf } from './similarity.js';

/** Frames on either side over which an even movement is taken. */
const EVEN = 15;

/** Source frames over which it comes and goes outside its stretch. */
const SOFT = 8;

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
