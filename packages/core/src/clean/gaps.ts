import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { bendWindow, TIME_EPSILON } from '../time-map/time-map.js';
import type { Landing } from './landing.js';
import type { Reference } from './reference.js';

/** A point the curve passes through on a reach: a landing, or an end of the clip. */
interface Anchor {
  readonly cue: number;
  readonly position: number;
  readonly reach: number;
  /** By how many timeline frames it comes later than where its reach, gone on as a line, shows it now. */
  readonly late: number;
}

/** What lies between two anchors, and the landings inside bends there. */
export interface Gap {
  readonly from: Anchor;
  readonly to: Anchor;
  readonly isFirst: boolean;
  readonly isLast: boolean;
  readonly inBends: readonly { readonly landing: Landing; readonly reach: number }[];
}

/**
 * The gaps between landings on their reaches and the ends of the clip, in the order of their cues: a landing settles the line of its reach, so
 * that what lies on either side of it is found by itself. `undefined` where a landing lies on a freeze of another frame.
 * @param reaches for each landing its reach; half a number is the bend between two
 */
export function gapsOf(
  map: Reference,
  landings: readonly Landing[],
  reaches: readonly number[],
): readonly Gap[] | undefined {
  const last = map.slopes.length - 1;
  const [start, end] = [map.vertices[0]!, map.vertices[last + 1]!];
  const order = landings
    .map((landing, n) => ({ landing, reach: reaches[n]! }))
    .sort((a, b) => a.landing.cue - b.landing.cue || a.reach - b.reach);
  const anchors: Anchor[] = [{ cue: start.t, position: start.s, reach: 0, late: 0 }];
  for (const { landing, reach } of order) {
    if (!Number.isInteger(reach)) continue;
    const late = latenessOf(map, landing, reach);
    if (late === undefined) return undefined;
    // All of a freeze's still part moves as late as what lands on it: a place amid that leaves its bends alone.
    const still = (bendWindow(map, reach).to + bendWindow(map, reach + 1).from) / 2;
    const isFrozen = map.slopes[reach] === 0;
    anchors.push({
      ...{ reach, late },
      cue: isFrozen ? still + late : landing.cue,
      position: isFrozen ? map.vertices[reach]!.s : landing.moment,
    });
  }
  anchors.push({ cue: end.t, position: end.s, reach: last, late: 0 });
  return anchors.slice(1).map((to, n): Gap => {
    const from = anchors[n]!;
    const isLast = n === anchors.length - 2;
    const inBends = order.filter(
      ({ landing, reach }) =>
        !Number.isInteger(reach) &&
        landing.cue >= from.cue &&
        (isLast || landing.cue < to.cue) &&
        reach > from.reach &&
        reach < to.reach,
    );
    return { from, to, isFirst: n === 0, isLast, inBends };
  });
}

/** By how much a landing comes after its reach, gone on as a line, shows it; a frozen moment lands with its first still frame. */
function latenessOf(map: Reference, { moment, cue }: Landing, reach: number): number | undefined {
  const { t, s } = map.vertices[reach]!;
  const slope = map.slopes[reach]!;
  if (slope !== 0) return cue - (t + (moment - s) / slope);
  if (reach === 0 || Math.abs(s - moment) > WHOLE_FRAME_TOLERANCE) return undefined;
  return cue - Math.ceil(bendWindow(map, reach).to - TIME_EPSILON);
}
