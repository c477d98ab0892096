import { InvalidInput } from '../foundation/errors.js';
import { easeCurve } from './ease.js';
import { positionAt } from './evaluate.js';
import {
  type Bend,
  bendWindow,
  MIN_VERTEX_FRAMES,
  fittedMap,
  HARD,
  mapDuration,
  reachSlope,
  TIME_EPSILON,
  type TimeMap,
} from './time-map.js';

/** Where a freeze begins: a whole source frame on the curve, after `before` vertices and in front of the rest from `after` on. */
interface HoldPlace {
  readonly t: number;
  readonly source: number;
  readonly before: number;
  readonly after: number;
}

/**
 * Holds a whole source frame still for exactly `frames` timeline frames, outside the bends in and out of it; what
 * follows keeps its speed and slides. `bend` rounds both changes (its width is cut to the room there is).
 * The frame held is the one nearest to what the curve shows at `t`. `stepped`: between whole frames the one before shows, as
 * Step has it, so that slow motion beside the freeze shows the frame for longer; that counts, and the freeze is as much shorter,
 * one frame at least. Throws `InvalidInput` inside another bend, where the clip is still already, and where no whole frame shows
 * nearby.
 */
export function freezeAt(
  map: TimeMap,
  t: number,
  frames: number,
  bend: Bend = HARD,
  stepped = false,
): { map: TimeMap; reach: number } {
  if (!Number.isInteger(frames) || frames < 1 || frames > 1e6)
    throw new InvalidInput('freeze', `"${frames}" is not a count of frames to hold`);
  const place = holdPlace(map, t);
  const frozen = held(map, place, frames, bend);
  if (!stepped) return frozen;
  const excess = steppedFrames(frozen.map, frozen.reach, place.source) - frames;
  return excess > 0 ? held(map, place, Math.max(1, frames - excess), bend) : frozen;
}

/** How many timeline frames in a row show the frame a reach holds, where between whole frames the one before shows. */
function steppedFrames(map: TimeMap, reach: number, source: number): number {
  const shows = (k: number) => k >= 0 && k < mapDuration(map) && Math.floor(positionAt(map, k) + 1e-6) === source;
  const inside = Math.ceil(bendWindow(map, reach).to - TIME_EPSILON);
  let [first, last] = [inside, inside];
  while (shows(first - 1)) first--;
  while (shows(last + 1)) last++;
  return last - first + 1;
}

function held(
  map: TimeMap,
  { t: from, source, before, after }: HoldPlace,
  frames: number,
  bend: Bend,
): { map: TimeMap; reach: number } {
  const { mean } = easeCurve(bend.ease);
  // Bends in and out may take what is free on both sides; inside, the freeze is made long enough.
  const roomBefore = before === 0 ? 0 : from - bendWindow(map, before - 1).to;
  const roomAfter = bendWindow(map, after).from - from;
  const widthIn = Math.min(bend.widthFrames, mean < 1 ? roomBefore / (1 - mean) : before === 0 ? 0 : Infinity);
  const widthOut = Math.min(bend.widthFrames, mean > 0 ? roomAfter / mean : Infinity);
  const firstStill = Math.ceil(from + mean * widthIn - TIME_EPSILON);
  const to = Math.max(from + MIN_VERTEX_FRAMES, firstStill + frames - 1 + (1 - mean) * widthOut);
  return {
    map: fittedMap(
      [
        ...map.vertices.slice(0, before),
        { t: from, s: source },
        { t: to, s: source },
        ...map.vertices.slice(after).map((v) => ({ t: v.t + to - from, s: v.s })),
      ],
      [
        ...map.bends.slice(0, before),
        { widthFrames: widthIn, ease: bend.ease },
        { widthFrames: widthOut, ease: bend.ease },
        ...map.bends.slice(after),
      ],
    ),
    reach: before,
  };
}

const isWhole = (s: number) => Math.abs(s - Math.round(s)) <= 1e-9 * Math.max(1, Math.abs(s));

function holdPlace(map: TimeMap, t: number): HoldPlace {
  const { vertices, bends } = map;
  if (!(t >= 0 && t < mapDuration(map))) throw new InvalidInput('freeze', `frame ${t} is not in the clip`);
  const near = vertices.findIndex((v, i) => i < vertices.length - 1 && Math.abs(v.t - t) < MIN_VERTEX_FRAMES);
  if (near >= 0 && bends[near]!.widthFrames === 0 && isWhole(vertices[near]!.s)) {
    const { t: at, s } = vertices[near]!;
    return { t: at, source: Math.round(s), before: near, after: near + 1 };
  }
  const reach = Math.max(0, vertices.findIndex((v) => v.t > t) - 1);
  const from = bendWindow(map, reach).to;
  const to = bendWindow(map, reach + 1).from;
  if (t < from - TIME_EPSILON || t > to + TIME_EPSILON)
    throw new InvalidInput('freeze', `frame ${t} lies inside a bend; narrow that one first`);
  const slope = reachSlope(map, reach);
  if (slope === 0) throw new InvalidInput('freeze', `the clip is already still at frame ${t}`);
  const { t: anchor, s } = vertices[reach]!;
  const position = s + (t - anchor) * slope;
  const places = [Math.round(position), Math.floor(position), Math.ceil(position)].map((source) => ({
    source,
    t: anchor + (source - s) / slope,
  }));
  const room = {
    from: Math.max(from, anchor + MIN_VERTEX_FRAMES),
    to: Math.min(to, vertices[reach + 1]!.t - MIN_VERTEX_FRAMES),
  };
  const place = places.find((p) => p.t >= room.from - TIME_EPSILON && p.t <= room.to + TIME_EPSILON);
  if (!place)
    throw new InvalidInput('freeze', `no whole source frame shows near frame ${t} on this reach; move along it`);
  return { ...place, before: reach + 1, after: reach + 1 };
}
