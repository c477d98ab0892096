import { InvalidInput } from '../foundation/errors.js';
import { checkSpeed, type Keep, setBend } from './edit.js';
import { framesShowing } from './inverse.js';
import { concatMaps, splitMap } from './split.js';
import { type Bend, checkTimeMap, HARD, mapDuration, type TimeMap } from './time-map.js';

/** A ladder of speeds: each rung lasts as long as the others. */
export interface Ladder {
  /** Speeds in order, 1 = 100 %. */
  readonly speeds: readonly number[];
  /** How long each rung lasts, timeline frames. */
  readonly framesEach: number;
}

/**
 * From timeline frame `at` on, the clip takes the ladder's speeds in turn. Keeping content, what follows is the source
 * that comes after, at the speeds it had, and the clip's length gives; keeping the slot, what follows stays where it is in
 * time and slips in the source. `bend` rounds the changes between rungs, where there is room. Throws `InvalidInput`.
 */
export function ladder(
  map: TimeMap,
  at: number,
  { speeds, framesEach }: Ladder,
  k0: number,
  keep: Keep,
  bend: Bend = HARD,
): TimeMap {
  if (speeds.length === 0 || speeds.length > 50) throw new InvalidInput('steps', 'a ladder has 1 to 50 steps');
  if (!(framesEach >= 1 && framesEach <= 1e6))
    throw new InvalidInput('steps', `${framesEach} frames is not a length for a step`);
  speeds.forEach(checkSpeed);
  const lead = at >= 1 ? splitMap(map, at)[0] : undefined;
  const start = lead ? lead.vertices.at(-1)! : map.vertices[0]!;
  let [t, s] = [0, start.s];
  const rungs = [{ t, s }, ...speeds.map((speed) => ({ t: (t += framesEach), s: (s += speed * k0 * framesEach) }))];
  const stepped = checkTimeMap({ vertices: rungs, bends: rungs.map(() => HARD) }, 'steps');
  const led = lead ? concatMaps(lead, stepped) : stepped;
  const rest = remainder(map, at + t, s, at, keep);
  const whole = rest ? concatMaps(led, rest) : led;
  return roundAll(whole, at, at + t, bend);
}

/** What comes after the ladder; none when it uses up the clip. */
function remainder(map: TimeMap, end: number, s: number, from: number, keep: Keep): TimeMap | undefined {
  const duration = mapDuration(map);
  // Keeping content, the rest begins where the clip first shows what the ladder ended on.
  const place = keep === 'slot' ? end : framesShowing(map, s).find((k) => k >= from);
  if (place === undefined || place > duration - 1) return undefined;
  const rest = splitMap(map, Math.max(place, 1 / 64))[1];
  const slip = s - rest.vertices[0]!.s;
  return { ...rest, vertices: rest.vertices.map((v) => ({ t: v.t, s: v.s + slip })) };
}

function roundAll(map: TimeMap, from: number, to: number, bend: Bend): TimeMap {
  if (bend.widthFrames === 0) return map;
  return map.vertices.reduce((result, { t }, i) => {
    const inner =
      i > 0 && i < map.vertices.length - 1 && t >= from - 1e-9 && t <= to + 1e-9 && result.bends[i]!.widthFrames === 0;
    return inner ? setBend(result, i, bend) : result;
  }, map);
}
