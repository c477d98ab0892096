import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';
import { bendWindow, mapDuration, reachCount, reachSlope, type TimeMap } from '../time-map/time-map.js';
import type { Landing } from './landing.js';

/** Ways of laying the landings on reaches that are looked at. */
const MAX_ASSIGNMENTS = 8;

/** What a landing inside a bend counts as being away, so that those off it come first. */
const IN_BEND = 1;

/** Moments that show so close to a bend are tried inside it too, timeline frames. */
const BY_BEND = 4;

/**
 * Which reach each landing may lie on, the nearest first; landings in the order of their cues never go backward. Half a number is the bend
 * between two reaches: where the moment could show inside it, its width is what makes it.
 */
export function assignments(map: TimeMap, landings: readonly Landing[], patience: number): number[][] {
  const near = landings.map(({ moment, cue }) =>
    Array.from({ length: reachCount(map) }, (_, i) => {
      const [a, b] = [map.vertices[i]!, map.vertices[i + 1]!];
      const slope = reachSlope(map, i);
      const late = Math.max(a.t - cue, cue - b.t, 0);
      const off = Math.max(Math.min(a.s, b.s) - moment, moment - Math.max(a.s, b.s), 0);
      return { i, away: slope === 0 && off > WHOLE_FRAME_TOLERANCE ? Infinity : late, off };
    })
      .filter(({ away }) => away <= patience)
      .sort((x, y) => x.away - y.away || x.off - y.off)
      .slice(0, 3)
      .concat(
        // Off its bend first: inside one the frames about the moment are made.
        map.vertices.flatMap((_, i) =>
          isByBend(map, i, { moment, cue }, patience) ? [{ i: i - 0.5, away: IN_BEND, off: 0 }] : [],
        ),
      ),
  );
  const order = landings.map((_, n) => n).sort((a, b) => landings[a]!.cue - landings[b]!.cue);
  let all: { reaches: number[]; away: number }[] = [{ reaches: [], away: 0 }];
  for (const n of order)
    all = all
      .flatMap(({ reaches, away }) =>
        near[n]!.filter(({ i }) => reaches.length === 0 || i >= reaches.at(-1)!).map((each) => ({
          reaches: [...reaches, each.i],
          away: away + each.away,
        })),
      )
      .sort((a, b) => a.away - b.away)
      .slice(0, MAX_ASSIGNMENTS);
  return all.map(({ reaches }) => landings.map((_, n) => reaches[order.indexOf(n)]!));
}

/** Whether a moment shows in the bend at vertex i or close to it, so that a little of everything may bring it there on its cue. */
function isByBend(map: TimeMap, i: number, { moment, cue }: Landing, patience: number): boolean {
  if (map.bends[i]!.widthFrames === 0 || Math.abs(cue - map.vertices[i]!.t) > patience) return false;
  // What a freeze beside it holds lands with that.
  const isFreezes = [i - 1, i].some((reach) => reachSlope(map, reach) === 0);
  if (isFreezes && Math.abs(map.vertices[i]!.s - moment) <= WHOLE_FRAME_TOLERANCE) return false;
  const { from, to } = bendWindow(map, i);
  const [a, b] = [from - BY_BEND, to + BY_BEND].map((t) => positionAt(map, Math.min(mapDuration(map), Math.max(0, t))));
  return (moment - a!) * (moment - b!) <= 0;
}
