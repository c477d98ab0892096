import { easeCurve } from '../time-map/ease.js';
import { MIN_VERTEX_FRAMES } from '../time-map/time-map.js';
import { WIDEST } from './bend-width.js';
import type { Landing } from './landing.js';
import { isCrossing, type Reference } from './reference.js';

/** What is left of divisions may put an intercept so far past a bound. */
const SLACK = 1e-6;

/** The intercept of a reach's line, NaN where it is not known yet. */
export type InterceptOf = (reach: number) => number;

export interface Bounds {
  readonly low: number;
  readonly high: number;
}

/**
 * Between which intercepts the line of a reach may lie, for what is known of its neighbours: the places at its ends stay within the patience and
 * as far from others as the narrowest bends need, and what lands inside a bend lies on that side of the lines on which the bend is. All of it is
 * necessary and none of it enough: an answer is still checked.
 */
export class InterceptBounds {
  /** The least that may lie between a place and the next. */
  private readonly apart: readonly number[];

  /** @param bends of every bend the mean of its ease, and the least width it may get */
  constructor(
    private readonly map: Reference,
    private readonly choice: { readonly patience: number; readonly freeEnd: boolean },
    bends: { readonly means: readonly number[]; readonly narrowest: readonly number[] },
  ) {
    const { means, narrowest } = bends;
    this.apart = map.slopes.map((_, i) =>
      Math.max(MIN_VERTEX_FRAMES, means[i]! * narrowest[i]! + (1 - means[i + 1]!) * narrowest[i + 1]!),
    );
  }

  /** @param reaches for each landing the reach it lies on; half a number is the bend between two */
  of(reach: number, o: InterceptOf, landings: readonly Landing[], reaches: readonly number[]): Bounds {
    const { slopes } = this.map;
    const count = slopes.length;
    const bounds = new Narrowing();
    const [before, after] = [o(reach - 1), o(reach + 1)];
    const [into, out] = [slopes[reach - 1]! - slopes[reach]!, slopes[reach]! - slopes[reach + 1]!];
    const [hasStart, hasEnd] = [!Number.isNaN(before) && isCrossing(into), !Number.isNaN(after) && isCrossing(out)];
    // Its first place lies at (o − before) / into, its last at (after − o) / out.
    if (hasStart) {
      const from = this.time(reach - 1, o) + this.apart[reach - 1]!;
      const to = reach + 1 === count ? this.time(count, o) - this.apart[reach]! : NaN;
      bounds.within(1 / into, -before / into, this.around(reach, from, to));
    }
    if (hasEnd) {
      const from = reach === 0 ? this.time(0, o) + this.apart[0]! : NaN;
      const to = this.time(reach + 2, o) - this.apart[reach + 1]!;
      bounds.within(-1 / out, after / out, this.around(reach + 1, from, to));
    }
    if (hasStart && hasEnd)
      bounds.within(-1 / out - 1 / into, after / out + before / into, { low: this.apart[reach]!, high: Infinity });
    for (const [n, { moment, cue }] of landings.entries()) {
      const bend = reaches[n]! + 0.5;
      if (bend !== reach && bend !== reach + 1) continue;
      const other = bend === reach ? before + slopes[reach - 1]! * cue : after + slopes[reach + 1]! * cue;
      this.besideBend(bounds, bend, { moment, cue }, slopes[reach]! * cue, other);
    }
    return bounds;
  }

  /** The time of a vertex, NaN where it is not known yet. */
  private time(vertex: number, o: InterceptOf): number {
    const { vertices, slopes } = this.map;
    const count = slopes.length;
    if (vertex < 0 || vertex > count || (vertex === count && this.choice.freeEnd)) return NaN;
    if (vertex === 0 || vertex === count) return vertices[vertex]!.t;
    const jump = slopes[vertex - 1]! - slopes[vertex]!;
    return isCrossing(jump) ? (o(vertex) - o(vertex - 1)) / jump : vertices[vertex]!.t;
  }

  /** The times a vertex may have. */
  private around(vertex: number, from: number, to: number): Bounds {
    const { t } = this.map.vertices[vertex]!;
    const { patience } = this.choice;
    return { low: larger(t - patience, from), high: smaller(t + patience, to) };
  }

  /** A curve that turns toward the faster lies in front of both lines, by no more than the widest bend takes it there. */
  private besideBend(bounds: Narrowing, bend: number, { moment }: Landing, line: number, other: number): void {
    const { widthFrames, ease } = this.map.bends[bend]!;
    const curve = easeCurve(ease);
    // One that overshoots may lie on either side.
    if (curve.turns.length > 0) return;
    const jump = this.map.slopes[bend]! - this.map.slopes[bend - 1]!;
    const most = jump * WIDEST * widthFrames * curve.area(1 - curve.mean);
    const sign = Math.sign(jump);
    // One of the two lines lies no farther back than that.
    const otherDoes = Number.isNaN(other) || sign * (moment - most - other) <= SLACK;
    const back = otherDoes ? -Infinity : sign * (moment - most);
    bounds.within(sign, sign * line, { low: back, high: sign * moment });
  }
}

/** What is left after several bounds. */
class Narrowing implements Bounds {
  low = -Infinity;
  high = Infinity;

  /** factor·o + plus lies within these. */
  within(factor: number, plus: number, { low, high }: Bounds): void {
    if (factor === 0) return;
    const ends = [(low - plus) / factor, (high - plus) / factor];
    const [from, to] = factor > 0 ? ends : [ends[1], ends[0]];
    this.low = Math.max(this.low, from! - SLACK);
    this.high = Math.min(this.high, to! + SLACK);
  }
}

/** The larger of two numbers, of which the second may not be known. */
const larger = (a: number, b: number): number => (b > a ? b : a);
const smaller = (a: number, b: number): number => (b < a ? b : a);
