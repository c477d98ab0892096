import { cleanSlope } from '../cadence/clean-slope.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { easeCurve } from '../time-map/ease.js';
import { positionAt } from '../time-map/evaluate.js';
import {
  type Bend,
  bendWindow,
  checkTimeMap,
  clampBends,
  MIN_VERTEX_FRAMES,
  reachCount,
  reachSlope,
  settledBends,
  TIME_EPSILON,
  type TimeMap,
  widthAsked,
} from '../time-map/time-map.js';
import { assignments } from './assignments.js';
import { widthToLand } from './bend-width.js';
import type { Landing } from './landing.js';
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
  readonly room?: { readonly from: number; readonly to: number };
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

/** Points of the grid that are looked at for one way of laying the landings on reaches. */
const MAX_NODES = 40;

/** To look at a finished curve takes as long as so many points. */
const ANSWER_NODES = 4;

/** A bend is not narrowed below this, timeline frames: narrower ones are felt as jumps. */
const NARROWEST_BEND = 4;

/** A bend that is narrowed by a frame costs as much as a place that moves by more than most do: it is moved off first. */
const NARROWED = 400;

/** Slopes closer than this are one speed; a vertex between them only marks a place. */
const SAME_SLOPE = 1e-9;

/** The best places for a map's vertices at which every landing is met; `undefined` where there are none within the patience. */
export function placeVertices(
  map: TimeMap,
  landings: readonly Landing[],
  choice: PlacesChoice,
  onReaches: readonly (readonly number[])[] = assignments(map, landings, choice.patience),
): Places | undefined {
  const lines = new Lines({ ...map, slopes: slopesOf(map) }, choice);
  return onReaches.reduce<Places | undefined>((best, reaches) => placedOn(lines, landings, reaches, best), undefined);
}

export const slopesOf = (map: TimeMap): number[] =>
  Array.from({ length: reachCount(map) }, (_, i) => reachSlope(map, i));

/** Where vertices would best lie, and the slopes there are to be between them, which need not be those between the vertices. */
export interface Reference extends TimeMap {
  readonly slopes: readonly number[];
}

/** The same with each landing on a reach of its own; an answer no better than `best` is `best`. */
export function placeOnReaches(
  reference: Reference,
  landings: readonly Landing[],
  reaches: readonly number[],
  choice: PlacesChoice,
  best: Places | undefined,
): Places | undefined {
  return placedOn(new Lines(reference, choice), landings, reaches, best);
}

function placedOn(
  lines: Lines,
  landings: readonly Landing[],
  reaches: readonly number[],
  best: Places | undefined,
): Places | undefined {
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

  constructor(
    private readonly map: Reference,
    private readonly choice: PlacesChoice,
  ) {
    this.count = reachCount(map);
    this.slopes = map.slopes;
    this.grid = this.slopes.map((slope) => cleanSlope(slope)?.q ?? 0);
    const { vertices } = map;
    const last = this.count - 1;
    const trimCost = (trim: number, i: number) => (trim > 0 ? (TRIM_WEIGHT * trim) / this.slopes[i]! : 0) ** 2;
    this.most = (this.count + 1) * choice.patience ** 2 + trimCost(choice.trimIn, 0) + trimCost(choice.trimOut, last);
    const [start, end] = [vertices[0]!, vertices[this.count]!];
    const isLocked = (i: number) => this.slopes[i] === 0 || choice.locked.includes(i);
    if (choice.trimIn > 0 && !isLocked(0))
      this.aims.push(this.row([[0, TRIM_WEIGHT / this.slopes[0]!]], (TRIM_WEIGHT * start.s) / this.slopes[0]!));
    else this.keep([[0, 1]], start.s);
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
      if (Math.abs(jump) < SAME_SLOPE) {
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
    const middle = node.at[i]! * this.grid[i]!;
    const far = this.grid[i]! * this.farthest(i);
    let found = best;
    // Outward from where it would lie without a grid, either way until nothing farther can be better.
    const ways = [
      { step: -1, at: Math.floor(middle) },
      { step: 1, at: Math.floor(middle) + 1 },
    ];
    for (;;) {
      const open = ways.filter(({ at }) => Math.abs(at - middle) <= far);
      const way = open.reduce<(typeof ways)[number] | undefined>(
        (a, b) => (a && Math.abs(a.at - middle) <= Math.abs(b.at - middle) ? a : b),
        undefined,
      );
      if (!way || ++this.nodes > MAX_NODES || --this.choice.budget.nodes < 0) break;
      const value = way.at / this.grid[i]!;
      way.at += way.step;
      // All that is aimed at is a square, so that farther out the least is never less.
      if (costAt(node, i, value) >= (found && found.lost === 0 ? found.moved - 1e-9 : this.most))
        way.at = way.step * Infinity;
      else found = this.branch(withIntercept(node, i, value), landings, reaches, found, i + 1);
    }
    return found;
  }

  /** Whether the vertices that are settled by now lie in order, within the patience, and about the landings between them. */
  private couldHold(node: Node, landings: readonly Landing[], reaches: readonly number[]): boolean {
    const { at } = node;
    let before = 0;
    for (let i = 1; i < this.count; i++) {
      const jump = this.slopes[i - 1]! - this.slopes[i]!;
      if (!isKnown(node, i) || !isKnown(node, i - 1) || Math.abs(jump) < SAME_SLOPE) continue;
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
    const { map, choice, slopes } = this;
    let lost = 0;
    const o = Array.from(intercepts, (value, i) => {
      const q = this.grid[i]!;
      const snapped = q > 0 ? Math.round(value * q) / q : value;
      if (Math.abs(snapped - value) <= 1e-7) return snapped;
      lost += (map.vertices[i + 1]!.t - map.vertices[i]!.t) / q;
      return value;
    });
    const { vertices } = map;
    let moved = 0;
    const placed: { t: number; s: number }[] = [{ t: 0, s: o[0]! }];
    const end = vertices[this.count]!;
    for (let i = 1; i < this.count; i++) {
      const jump = slopes[i - 1]! - slopes[i]!;
      const t = Math.abs(jump) < SAME_SLOPE ? vertices[i]!.t : (o[i]! - o[i - 1]!) / jump;
      const flat = Math.abs(slopes[i]!) < Math.abs(slopes[i - 1]!) ? i : i - 1;
      placed.push({ t, s: o[flat]! + slopes[flat]! * t });
      moved += (t - vertices[i]!.t) ** 2;
      if (Math.abs(t - vertices[i]!.t) > choice.patience + 1e-9) return undefined;
    }
    const last = this.count - 1;
    if (!choice.freeEnd) placed.push({ t: end.t, s: o[last]! + slopes[last]! * end.t });
    else {
      const t =
        slopes[last] === 0 || this.choice.locked.includes(last)
          ? placed[last]!.t + (end.t - vertices[last]!.t)
          : (end.s - o[last]!) / slopes[last]!;
      placed.push({ t, s: slopes[last] === 0 ? o[last]! : end.s });
      moved += (t - end.t) ** 2;
      if (Math.abs(t - end.t) > choice.patience + 1e-9) return undefined;
    }
    // What stays, stays to the last bit.
    if (Math.abs(placed.at(-1)!.s - end.s) < 1e-7) placed[this.count] = { ...placed[this.count]!, s: end.s };
    if (Math.abs(placed[0]!.s - vertices[0]!.s) < 1e-7) placed[0] = vertices[0]!;
    const trims = [Math.abs(placed[0]!.s - vertices[0]!.s), Math.abs(placed.at(-1)!.s - end.s)] as const;
    if (trims[0] > choice.trimIn + 1e-9 || trims[1] > choice.trimOut + 1e-9) return undefined;
    trims.forEach((trim, n) => (moved += (trim > 0 ? (TRIM_WEIGHT * trim) / slopes[n === 0 ? 0 : last]! : 0) ** 2));
    if (
      choice.room &&
      placed.some(({ s }, i) => outside(s, choice.room!) > outside(vertices[i]!.s, choice.room!) + 1e-9)
    )
      return undefined;
    if (!isBetter({ lost, moved }, best)) return undefined;
    const found = this.withRoom({ vertices: placed, bends: map.bends }, landings, reaches);
    found?.bends.forEach(({ widthFrames }, i) => (moved += NARROWED * (widthAsked(map.bends[i]!) - widthFrames) ** 2));
    if (!found || !landings.every(({ moment, cue }) => Math.abs(positionAt(found, cue) - moment) <= 1e-7))
      return undefined;
    return isBetter({ lost, moved }, best) ? { map: found, lost, moved } : undefined;
  }

  /** The map with its windows clear of one another and of the landings, narrowed where that is allowed; `undefined` where there is no room. */
  private withRoom(map: TimeMap, landings: readonly Landing[], reaches: readonly number[]): TimeMap | undefined {
    for (let i = 0; i < this.count; i++)
      if (map.vertices[i + 1]!.t - map.vertices[i]!.t < MIN_VERTEX_FRAMES) return undefined;
    const clear = landings.every(({ cue }, n) => {
      const i = reaches[n]!;
      if (!Number.isInteger(i)) return true;
      return cue >= map.vertices[i]!.t - TIME_EPSILON && cue <= map.vertices[i + 1]!.t + TIME_EPSILON;
    });
    if (!clear) return undefined;
    const bends = map.bends.map((bend, i): Bend => {
      const inside = reaches.indexOf(i - 0.5);
      if (inside >= 0)
        return {
          ease: bend.ease,
          widthFrames: widthToLand({ ...map, slopes: this.slopes }, i, landings[inside]!, NARROWEST_BEND),
        };
      if (bend.widthFrames === 0) return bend;
      const { mean } = easeCurve(bend.ease);
      const { t } = map.vertices[i]!;
      let widthFrames = widthAsked(bend);
      for (let n = 0; n < landings.length; n++) {
        const share = reaches[n] === i ? mean : reaches[n] === i - 1 ? 1 - mean : 0;
        if (share > 0) widthFrames = Math.min(widthFrames, Math.abs(landings[n]!.cue - t) / share + TIME_EPSILON);
      }
      return { ease: bend.ease, widthFrames };
    });
    // What lands says how wide bends are: a wider one could cover where something lands.
    const fitted = settledBends(clampBends({ ...map, bends }));
    if (fitted.bends.some(({ widthFrames }, i) => reaches.includes(i - 0.5) && widthFrames !== bends[i]!.widthFrames))
      return undefined;
    if (
      fitted.bends.some(
        ({ widthFrames }, i) => widthFrames < Math.min(map.bends[i]!.widthFrames, NARROWEST_BEND) - 1e-6,
      )
    )
      return undefined;
    return checkTimeMap(fitted, 'landing');
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
    if (from) of.forEach((_, j) => (of[j]! -= from.of[j]!));
    this.kept.push({ of, is });
  }

  private crosses(i: number): boolean {
    return Math.abs(this.slopes[i - 1]! - this.slopes[i]!) >= SAME_SLOPE;
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
const isBetter = (found: Omit<Places, 'map'>, best: Places | undefined): boolean =>
  !best || found.lost < best.lost - 1e-9 || (found.lost < best.lost + 1e-9 && found.moved < best.moved);

const outside = (s: number, { from, to }: { from: number; to: number }) => Math.max(from - s, s - to, 0);
