import { cleanSlope } from '../cadence/clean-slope.js';
import { type Bend, bendWindow } from '../time-map/time-map.js';
import type { Reference } from './reference.js';

/** The shortest stretch of another speed, timeline frames. */
const MIN_STRETCH = 2;

/** How wide the bends into and out of such a stretch are where there is room, timeline frames. */
const STRETCH_BEND = 8;

/** How narrow they may become where there is little room. */
const NARROWEST_STRETCH_BEND = 1;

/** How many speeds are tried for a stretch on a reach, and how many stretches between two anchors. */
const MAX_SPEEDS = 4;
const MAX_STRETCHES = 24;

/** A stretch of another slope on a reach: amid it, or at its start or its end, next to another reach. */
export interface Stretch {
  readonly reach: number;
  readonly where: 'amid' | 'start' | 'end';
  readonly frames: number;
  readonly slope: number;
  /** Real frames it has fewer than its reach has in that time. */
  readonly fewer: number;
  /** Between which times there is room for it. */
  readonly low: number;
  readonly high: number;
}

/** The stretches that would make up for the time that is missing, at most `MAX_STRETCHES`: those that lose fewest real frames first. */
export function stretchesFor(
  reference: Reference,
  missing: number,
  locked: readonly number[],
  speedsNear: (slope: number) => readonly number[],
): Stretch[] {
  const last = reference.slopes.length - 1;
  const found = reference.slopes.flatMap((slope, reach): Stretch[] => {
    if (slope === 0 || locked.includes(reach)) return [];
    const [start, end] = [reference.vertices[reach]!.t, reference.vertices[reach + 1]!.t];
    const low = bendWindow(reference, reach).to;
    const high = bendWindow(reference, reach + 1).from;
    const rooms = [
      { where: 'amid', room: high - low },
      ...(reach > 0 ? [{ where: 'start', room: high - start } as const] : []),
      ...(reach < last ? [{ where: 'end', room: end - low } as const] : []),
    ] as const;
    const most = Math.max(...rooms.map(({ room }) => room));
    return speedsNear(slope)
      .map((other) => ({ reach, slope: other, frames: missing / (1 - other / slope), low, high }))
      .filter(({ frames }) => frames >= MIN_STRETCH && frames <= most)
      .map((each) => ({ ...each, fewer: each.frames * shareLost(slope, each.slope) }))
      .sort((a, b) => a.fewer - b.fewer)
      .slice(0, MAX_SPEEDS)
      .flatMap((each) => rooms.filter(({ room }) => each.frames <= room).map(({ where }) => ({ ...each, where })));
  });
  // Amid a reach where that leaves something of it on either side.
  const order = ({ where, frames, low, high }: Stretch) =>
    where !== 'amid' ? 1 : frames + 2 * MIN_STRETCH <= high - low ? 0 : 2;
  return found.sort((a, b) => order(a) - order(b) || a.fewer - b.fewer).slice(0, MAX_STRETCHES);
}

/** By how much a smaller share of frames is real at another slope. */
export const shareLost = (slope: number, other: number): number => Math.max(0, shareOf(slope) - shareOf(other));

const shareOf = (slope: number): number => 1 / (cleanSlope(slope)?.q ?? Infinity);

/** A reference with a stretch of another slope on one of its reaches. */
export function withInserted(
  { vertices, bends, slopes }: Reference,
  { reach, where, frames, slope, low, high }: Stretch,
): Reference {
  const { t, s } = vertices[reach]!;
  const at = (time: number) => ({ t: time, s: s + slopes[reach]! * (time - t) });
  const spare = Math.max(0, high - low - frames);
  const bend: Bend = { widthFrames: NARROWEST_STRETCH_BEND, wanted: Math.min(STRETCH_BEND, frames), ease: 'soft' };
  const start = low + spare / 2;
  const places = { amid: [start, start + frames], start: [t + frames], end: [vertices[reach + 1]!.t - frames] }[where];
  const speeds = { amid: [slopes[reach]!, slope], start: [slope], end: [slopes[reach]!] }[where];
  const rest = where === 'end' ? slope : slopes[reach]!;
  return {
    vertices: vertices.toSpliced(reach + 1, 0, ...places.map(at)),
    bends: bends.toSpliced(reach + 1, 0, ...places.map(() => bend)),
    slopes: slopes.toSpliced(reach, 1, ...speeds, rest),
  };
}
