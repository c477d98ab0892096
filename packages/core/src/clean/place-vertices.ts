import { cleanSlope } from '../cadence/clean-slope.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { easeCurve } from '../time-map/ease.js';
import { positionAt } from '../time-map/evaluate.js';
import {
  type Bend,
  bendWindow,
  clampBends,
  MIN_VERTEX_FRAMES,
  reachCount,
  settledBends,
  TIME_EPSILON,
  type TimeMap,
  type Vertex,
  widthAsked,
} from '../time-map/time-map.js';
import { widthToLand } from './bend-width.js';
import type { Landing } from './landing.js';
import { InterceptBounds } from './bounds.js';
import { isCrossing, isOutside, type Reference, type Room } from './reference.js';
import { costAt, isKnown, nearestOn, type Node, type Row, withIntercept } from './rows.js';

/**
 * Where speeds change, as lines. A map whose speeds stay is a run of straight lines s = oᵢ + vᵢ·t with known slopes; vertex i lies where
 * lines i−1 and i cross, tᵢ = (oᵢ − oᵢ₋₁) / (vᵢ₋₁ − vᵢ). So the intercepts o are all there is to choose, and whatever must hold is linear
 * in them: a landing on reach i is oᵢ = moment − vᵢ·cue, an end that stays is one intercept, a locked reach two rows. A slope p/q has as many real
 * frames as it can when q·oᵢ is whole. What is searched for is the point of that grid, on those rows, whose vertices move least.
 */
export interface PlacesChoice {
  /** Reaches that keep their length and what they show, by index; freezes always do. */
  readonly locked: readonly number[];
  /** The in point stays, or may be trimmed by so many source frames. */
  readonly trimIn: number;
  /** The out point stays, or may be trimmed by so many source frames. */
  readonly trimOut: number;
  /** The clip may end earlier or later: its out point stays and its length changes. */
  readonly freeEnd: boolean;
  /** How far a place, or a free end, may move, timeline frames. */
  readonly patience: number;
  /** Points of the grid that may still be looked at; counted down. */
  readonly budget: { nodes: number };
  /** Source positions there are. */
  readonly room?: Room;
}

/** An answer, and what it cost. */
export interface Places {
  readonly map: TimeMap;
  /** Real frames that reaches lose against their best phase. */
  readonly lost: number;
  /** Sum of the squares of how far places moved, timeline frames; trims count as the frames they take. */
  readonly moved: number;
}

/** A trim counts as so many times the frames it takes, so that places move first. */
const TRIM_WEIGHT = 16;

/** What it costs to trim an end by so many source frames at its slope. */
export const trimCost = (trim: number, slope: number): number => (trim === 0 ? 0 : ((TRIM_WEIGHT * trim) / slope) ** 2);

/** Points of the grid that are looked at for one way of laying the landings on reaches. */
const MAX_NODES = 40;

/** To look at a finished curve takes as long as so many points. */
const ANSWER_NODES = 4;

/** A bend is not narrowed below this, timeline frames: narrower ones are felt as jumps. */
const NARROWEST_BEND = 4;

/** A bend that is narrowed by a frame costs as much as a place that moves by more than most do: it is moved off first. */
const NARROWED = 400;

/** The best places for vertices at which every landing is met on its reach; where there are none within the patience better than `best`, that. */
export function placeOnReaches(
  reference: Reference,
  landings: readonly Landing[],
  reaches: readonly number[],
  choice: PlacesChoice,
  best: Places | undefined,
): Places | undefined {
  const lines = new Lines(reference, choice);
  const rows = lines.rows(landings, reaches);
  return rows ? lines.search(rows, landings, reaches, best) : best;
}

class Lines {
  private readonly count: number;
  private readonly slopes: readonly number[];
  /** One of so many frames can be real on its phase; 0: phase is no concern. */
  private readonly grid: readonly number[];
  private readonly kept: Row[] = [];
  /** What is to be small: each a combination of the intercepts, less a number. */
  private readonly aims: Row[] = [];
  private nodes = 0;
  /** More than this no answer within the patience can cost. */
  private readonly most: number;
  /** Of every bend the mean of its ease, the width asked for, and the least it may get; and all as wide as asked. */
  private readonly means: readonly number[];
  private readonly asked: readonly number[];
  private readonly narrowest: readonly number[];
  private readonly settled: readonly Bend[];
  private readonly bounds: InterceptBounds;

  constructor(
    private readonly map: Reference,
    private readonly choice: PlacesChoice,
  ) {
    this.count = reachCount(map);
    this.slopes = map.slopes;
    this.grid = this.slopes.map((slope) => cleanSlope(slope)?.q ?? 0);
    this.means = map.bends.map(({ ease }) => easeCurve(ease).mean);
    this.asked = map.bends.map((bend) => (bend.widthFrames === 0 ? 0 : widthAsked(bend)));
    this.narrowest = map.bends.map(({ widthFrames }) => Math.min(widthFrames, NARROWEST_BEND) - 1e-6);
    this.settled = map.bends.map(({ ease }, i) => ({ widthFrames: this.asked[i]!, ease }));
    this.bounds = new InterceptBounds(map, choice, { means: this.means, narrowest: this.narrowest });
    const { vertices } = map;
    const last = this.count - 1;
    this.most =
      (this.count + 1) * choice.patience ** 2 +
      trimCost(choice.trimIn, this.slopes[0]!) +
      trimCost(choice.trimOut, this.slopes[last]!);
    const [start, end] = [vertices[0]!, vertices[this.count]!];
    const isLocked = (i: number) => this.slopes[i] === 0 || choice.locked.includes(i);
    const into = start.s - this.slopes[0]! * start.t;
    if (choice.trimIn > 0 && !isLocked(0))
      this.aims.push(this.row([[0, TRIM_WEIGHT / this.slopes[0]!]], (TRIM_WEIGHT * into) / this.slopes[0]!));
    else this.keep([[0, 1]], into);
    const out = end.s - this.slopes[last]! * end.t;
    if (choice.freeEnd && !isLocked(last)) this.aims.push(this.time(this.count));
    else if (!choice.freeEnd) {
      if (choice.trimOut > 0 && !isLocked(last))
        this.aims.push(this.row([[last, TRIM_WEIGHT / this.slopes[last]!]], (TRIM_WEIGHT * out) / this.slopes[last]!));
      else this.keep([[last, 1]], out);
    }
    for (let i = 1; i < this.count; i++) {
      const [v, w] = [this.slopes[i - 1]!, this.slopes[i]!];
      const jump = v - w;
      if (!isCrossing(jump)) {
        this.keep(
          [
            [i, 1],
            [i - 1, -1],
          ],
          0,
        );
        continue;
      }
      this.aims.push(this.time(i));
      // Where direction turns, and at either end of what is locked, the source frame stays.
      if (v * w < 0 || isLocked(i - 1) || isLocked(i))
        this.keep(
          [
            [i, v / jump],
            [i - 1, -w / jump],
          ],
          vertices[i]!.s,
        );
    }
    for (let i = 0; i < this.count; i++) if (isLocked(i)) this.keepLength(i);
  }

  /** What must hold with these landings on these reaches; `undefined` where a frozen frame is not the moment. */
  rows(landings: readonly Landing[], reaches: readonly number[]): Row[] | undefined {
    const rows = [...this.kept];
    for (const [n, { moment, cue }] of landings.entries()) {
      const i = reaches[n]!;
      // Inside a bend its width does it.
      if (!Number.isInteger(i)) continue;
      if (this.slopes[i] !== 0) {
        rows.push(this.row([[i, 1]], moment - this.slopes[i]! * cue));
        continue;
      }
      // A frozen moment lands with its first still frame.
      if (i === 0 || Math.abs(this.map.vertices[i]!.s - moment) > WHOLE_FRAME_TOLERANCE) return undefined;
      const still = Math.ceil(bendWindow(this.map, i).to - TIME_EPSILON);
      const { of, is } = this.time(i);
      rows.push({ of, is: is + cue - still });
    }
    return rows;
  }

  /** The best point of the grid on these rows that is better than `best`; else `best`. Branch and bound: the least squares of a node bound all below it. */
  search(
    rows: readonly Row[],
    landings: readonly Landing[],
    reaches: readonly number[],
    best: Places | undefined,
  ): Places | undefined {
    this.nodes = 0;
    this.choice.budget.nodes--;
    const node = nearestOn(rows, this.aims, this.count);
    return node ? this.branch(node, landings, reaches, best, 0) : best;
  }

  private branch(
    node: Node,
    landings: readonly Landing[],
    reaches: readonly number[],
    best: Places | undefined,
    from: number,
  ): Places | undefined {
    if (!this.couldHold(node, landings, reaches)) return best;
    let i = from;
    while (i < this.count && (this.grid[i] === 0 || isKnown(node, i))) i++;
    if (i === this.count) {
      this.choice.budget.nodes -= ANSWER_NODES;
      return this.answer(node.at, landings, reaches, best) ?? best;
    }
    const grid = this.grid[i]!;
    const middle = node.at[i]! * grid;
    const far = grid * this.farthest(i);
    const known = (n: number) => (n >= 0 && n < this.count && isKnown(node, n) ? node.at[n]! : NaN);
    const { low, high } = this.bounds.of(i, known, landings, reaches);
    const [lowest, highest] = [Math.max(middle - far, low * grid), Math.min(middle + far, high * grid)];
    let found = best;
    // Outward from where it would lie without a grid, either way until nothing farther can be or can be better.
    let down = Math.floor(Math.min(middle, highest));
    let up = Math.max(Math.floor(middle) + 1, Math.ceil(lowest));
    for (;;) {
      const [mayDown, mayUp] = [down >= lowest, up <= highest];
      if ((!mayDown && !mayUp) || ++this.nodes > MAX_NODES || --this.choice.budget.nodes < 0) break;
      const isDown = mayDown && (!mayUp || middle - down <= up - middle);
      const value = (isDown ? down : up) / grid;
      // All that is aimed at is a square, so that farther out the least is never less.
      const isOver = costAt(node, i, value) >= (found && found.lost === 0 ? found.moved - 1e-9 : this.most);
      if (isDown) down -= isOver ? Infinity : 1;
      else up += isOver ? Infinity : 1;
      if (!isOver) found = this.branch(withIntercept(node, i, value), landings, reaches, found, i + 1);
    }
    return found;
  }

  /** Whether the vertices that are settled by now lie in order, within the patience, and about the landings between them. */
  private couldHold(node: Node, landings: readonly Landing[], reaches: readonly number[]): boolean {
    const { at } = node;
    let before = this.map.vertices[0]!.t;
    for (let i = 1; i < this.count; i++) {
      const jump = this.slopes[i - 1]! - this.slopes[i]!;
      if (!isKnown(node, i) || !isKnown(node, i - 1) || !isCrossing(jump)) continue;
      const t = (at[i]! - at[i - 1]!) / jump;
      if (t < before + MIN_VERTEX_FRAMES || Math.abs(t - this.map.vertices[i]!.t) > this.choice.patience + 1e-6)
        return false;
      for (const [n, { cue }] of landings.entries())
        if (reaches[n]! >= i ? cue < t - 1e-6 : reaches[n]! <= i - 1 && cue > t + 1e-6) return false;
      before = t;
    }
    return true;
  }

  /** How far the intercept of a reach may be from where it is best without a grid: as far as the patience moves its vertices. */
  private farthest(i: number): number {
    const jumps = [i - 1, i].map((n) => Math.abs((this.slopes[n] ?? 0) - (this.slopes[n + 1] ?? 0)));
    return Math.max(...jumps, 1 / 8) * this.choice.patience;
  }

  /** The map of these intercepts, where it is one, everything that is asked of it holds, and it is better than `best`. */
  private answer(
    intercepts: Float64Array,
    landings: readonly Landing[],
    reaches: readonly number[],
    best: Places | undefined,
  ): Places | undefined {
    const { map, choice, slopes, count } = this;
    const { vertices } = map;
    const [start, end] = [vertices[0]!, vertices[count]!];
    const last = count - 1;
    const o = intercepts.slice();
    let lost = 0;
    for (let i = 0; i < count; i++) {
      const q = this.grid[i]!;
      const snapped = q > 0 ? Math.round(o[i]! * q) / q : o[i]!;
      if (Math.abs(snapped - o[i]!) <= 1e-7) o[i] = snapped;
      else lost += (vertices[i + 1]!.t - vertices[i]!.t) / q;
    }
    let moved = 0;
    const times = new Float64Array(count + 1);
    times[0] = start.t;
    for (let i = 1; i < count; i++) {
      const jump = slopes[i - 1]! - slopes[i]!;
      times[i] = isCrossing(jump) ? (o[i]! - o[i - 1]!) / jump : vertices[i]!.t;
    }
    times[count] = end.t;
    const movesWhole = slopes[last] === 0 || choice.locked.includes(last);
    if (choice.freeEnd)
      times[count] = movesWhole ? times[last]! + (end.t - vertices[last]!.t) : (end.s - o[last]!) / slopes[last]!;
    for (let i = 1; i <= count; i++) {
      const by = Math.abs(times[i]! - vertices[i]!.t);
      if (by > choice.patience + 1e-9) return undefined;
      moved += by * by;
    }
    // What stays, stays to the last bit.
    const kept = (s: number, was: number) => (Math.abs(s - was) < 1e-7 ? was : s);
    const first = kept(o[0]! + slopes[0]! * start.t, start.s);
    const final = choice.freeEnd && slopes[last] !== 0 ? end.s : kept(o[last]! + slopes[last]! * times[count], end.s);
    const [trimIn, trimOut] = [Math.abs(first - start.s), Math.abs(final - end.s)];
    if (trimIn > choice.trimIn + 1e-9 || trimOut > choice.trimOut + 1e-9) return undefined;
    moved += trimCost(trimIn, slopes[0]!) + trimCost(trimOut, slopes[last]!);
    const vertexAt = (i: number): Vertex => {
      if (i === 0) return { t: start.t, s: first };
      if (i === count) return { t: times[i]!, s: final };
      const flat = Math.abs(slopes[i]!) < Math.abs(slopes[i - 1]!) ? i : i - 1;
      return { t: times[i]!, s: o[flat]! + slopes[flat]! * times[i]! };
    };
    const narrowing = this.narrowing(times, reaches);
    if (narrowing === Infinity || !isBetter({ lost, moved: moved + narrowing }, best)) return undefined;
    const widths = this.widthsToLand(vertexAt, landings, reaches);
    if (!widths) return undefined;
    const placed = Array.from(times, (_, i) => vertexAt(i));
    const { room } = choice;
    if (room && placed.some(({ s }, i) => isOutside(s, vertices[i]!.s, room))) return undefined;
    const found = this.withRoom({ vertices: placed, bends: map.bends }, widths, landings, reaches);
    found?.bends.forEach(({ widthFrames }, i) => (moved += NARROWED * (this.asked[i]! - widthFrames) ** 2));
    if (!found || !landings.every(({ moment, cue }) => Math.abs(positionAt(found, cue) - moment) <= 1e-7))
      return undefined;
    return isBetter({ lost, moved }, best) ? { map: found, lost, moved } : undefined;
  }

  /** The least that narrowing the bends to the room between places costs; without end where one would be too narrow, or two places lie too close. */
  private narrowing(times: Float64Array, reaches: readonly number[]): number {
    let cost = 0;
    for (let i = 1; i <= this.count; i++) {
      const before = times[i]! - times[i - 1]!;
      if (before < MIN_VERTEX_FRAMES) return Infinity;
      const asked = this.asked[i]!;
      // What lands inside a bend says how wide it is.
      if (asked === 0 || i === this.count || reaches.includes(i - 0.5)) continue;
      const mean = this.means[i]!;
      const widest = Math.min(asked, before / (1 - mean), (times[i + 1]! - times[i]!) / mean);
      if (widest < this.narrowest[i]!) return Infinity;
      cost += NARROWED * (asked - widest) ** 2;
    }
    return cost;
  }

  /** How wide the bends are in which something lands, by their vertices; `undefined` where one cannot be as wide as that. */
  private widthsToLand(
    vertexAt: (vertex: number) => Vertex,
    landings: readonly Landing[],
    reaches: readonly number[],
  ): ReadonlyMap<number, number> | undefined {
    const widths = new Map<number, number>();
    for (const [n, reach] of reaches.entries()) {
      const i = reach + 0.5;
      if (Number.isInteger(reach) || widths.has(i)) continue;
      const speeds = [this.slopes[i - 1]!, this.slopes[i]!] as const;
      const width = widthToLand(vertexAt(i), this.map.bends[i]!, speeds, landings[n]!, NARROWEST_BEND);
      if (width < this.narrowest[i]!) return undefined;
      widths.set(i, width);
    }
    return widths;
  }

  /** The map with its windows clear of one another and of the landings, narrowed where that is allowed; `undefined` where there is no room. */
  private withRoom(
    map: TimeMap,
    inside: ReadonlyMap<number, number>,
    landings: readonly Landing[],
    reaches: readonly number[],
  ): TimeMap | undefined {
    if (landings.length === 0 && this.hasRoom(map.vertices)) return { ...map, bends: this.settled };
    const clear = landings.every(({ cue }, n) => {
      const i = reaches[n]!;
      if (!Number.isInteger(i)) return true;
      return cue >= map.vertices[i]!.t - TIME_EPSILON && cue <= map.vertices[i + 1]!.t + TIME_EPSILON;
    });
    if (!clear) return undefined;
    const bends = map.bends.map((bend, i): Bend => {
      const wide = inside.get(i);
      if (wide !== undefined) return { ease: bend.ease, widthFrames: wide };
      if (bend.widthFrames === 0) return bend;
      const mean = this.means[i]!;
      const { t } = map.vertices[i]!;
      let widthFrames = this.asked[i]!;
      for (let n = 0; n < landings.length; n++) {
        const share = reaches[n] === i ? mean : reaches[n] === i - 1 ? 1 - mean : 0;
        if (share > 0) widthFrames = Math.min(widthFrames, Math.abs(landings[n]!.cue - t) / share + TIME_EPSILON);
      }
      return { ease: bend.ease, widthFrames };
    });
    // What lands says how wide bends are: a wider one could cover where something lands.
    const fitted = settledBends(clampBends({ ...map, bends }));
    if ([...inside].some(([i, wide]) => fitted.bends[i]!.widthFrames !== wide)) return undefined;
    return fitted.bends.some(({ widthFrames }, i) => widthFrames < this.narrowest[i]!) ? undefined : fitted;
  }

  /** Whether every bend can be as wide as asked. */
  private hasRoom(vertices: readonly Vertex[]): boolean {
    for (let i = 0; i < this.count; i++) {
      const taken = this.means[i]! * this.asked[i]! + (1 - this.means[i + 1]!) * this.asked[i + 1]!;
      if (taken > vertices[i + 1]!.t - vertices[i]!.t) return false;
    }
    return true;
  }

  /** The time of vertex i, the free end's among them, as a combination of the intercepts, less where it is now. */
  private time(i: number): Row {
    const { t, s } = this.map.vertices[i]!;
    if (i === this.count) {
      const slope = this.slopes[i - 1]!;
      return this.row([[i - 1, -1 / slope]], t - s / slope);
    }
    const jump = this.slopes[i - 1]! - this.slopes[i]!;
    return this.row(
      [
        [i, 1 / jump],
        [i - 1, -1 / jump],
      ],
      t,
    );
  }

  private keepLength(i: number): void {
    const length = this.map.vertices[i + 1]!.t - this.map.vertices[i]!.t;
    const ends = [i, i + 1].map((n) => (n === 0 ? undefined : n === this.count ? null : this.time(n)));
    const [from, to] = ends;
    if (to === null && this.choice.freeEnd) return;
    // A vertex that only marks a place does not move.
    if (from && !this.crosses(i)) return;
    if (to && !this.crosses(i + 1)) return;
    const of = new Float64Array(this.count);
    let is = length;
    if (to) of.forEach((_, j) => (of[j]! += to.of[j]!));
    else is -= this.map.vertices[this.count]!.t;
    if (!from) is += this.map.vertices[0]!.t;
    if (from) of.forEach((_, j) => (of[j]! -= from.of[j]!));
    this.kept.push({ of, is });
  }

  private crosses(i: number): boolean {
    return isCrossing(this.slopes[i - 1]! - this.slopes[i]!);
  }

  private keep(parts: readonly (readonly [number, number])[], is: number): void {
    this.kept.push(this.row(parts, is));
  }

  private row(parts: readonly (readonly [number, number])[], is: number): Row {
    const of = new Float64Array(this.count);
    for (const [i, factor] of parts) of[i]! += factor;
    return { of, is };
  }
}

/** Fewer lost frames first, then less that moves. */
export const isBetter = (found: Omit<Places, 'map'>, best: Places | undefined): boolean =>
  !best || found.lost < best.lost - 1e-9 || (found.lost < best.lost + 1e-9 && found.moved < best.moved);
