import { cleanSlope } from '../cadence/clean-slope.js';
import { checkTimeMap, HARD, MIN_VERTEX_FRAMES, type TimeMap } from '../time-map/time-map.js';
import type { Gap } from './gaps.js';
import { isBetter, placeOnReaches, type Places, trimCost } from './place-vertices.js';
import { isOutside, type Reference } from './reference.js';
import { shareLost, stretchesFor, withInserted } from './stretches.js';

/** What the ends of the clip may do. */
export interface Ends {
  /** Source frames by which the in and the out point may be trimmed. */
  readonly trimIn: number;
  readonly trimOut: number;
  readonly freeEnd: boolean;
}

/** Clean speeds no further from a slope than a factor. */
export type SpeedsNear = (slope: number, ratio: number) => readonly number[];

const STAY: Ends = { trimIn: 0, trimOut: 0, freeEnd: false };

interface PartsChoice {
  readonly locked: readonly number[];
  readonly patience: number;
  readonly room?: { readonly from: number; readonly to: number } | undefined;
}

/** Points of the grid that are looked at for one part. */
const MAX_NODES = 120;

/** Places between two anchors, and by how many real frames its speeds have fewer than the clip's own. */
export interface Filled extends Places {
  readonly fewer: number;
}

/** What was found between anchors, each kept for as long as one clip is landed. */
export class Parts {
  private readonly found = new Map<string, Filled | undefined>();

  constructor(
    private readonly map: Reference,
    private readonly choice: PartsChoice,
  ) {}

  /** The best places between two anchors at these speeds of the clip's reaches; `undefined` where there are none within the patience. */
  between(gap: Gap, ends: Ends, slopes: readonly number[]): Filled | undefined {
    const { from, to, inBends } = gap;
    const mayGive = `${gap.isFirst && ends.trimIn > 0},${gap.isLast && ends.trimOut > 0},${gap.isLast && ends.freeEnd}`;
    const bent = inBends.map(({ landing, reach }) => `${landing.cue}:${reach}`).join();
    const speeds = slopes === this.map.slopes ? '' : slopes.slice(from.reach, to.reach + 1).join('/');
    const key = `${from.cue},${from.reach},${to.cue},${to.reach},${mayGive},${bent},${speeds}`;
    return this.once(key, () => {
      const places = this.placed(gap, ends, slopes);
      return places && { ...places, fewer: this.fewerAt(gap, places, slopes) };
    });
  }

  private once(key: string, find: () => Filled | undefined): Filled | undefined {
    if (!this.found.has(key)) this.found.set(key, find());
    return this.found.get(key);
  }

  private placed(gap: Gap, ends: Ends, slopes: readonly number[]): Places | undefined {
    const { from, to } = gap;
    const isTwice = from.cue === to.cue && from.late === to.late;
    const isOne = from.reach === to.reach && gap.inBends.length === 0 && !(gap.isFirst && gap.isLast);
    if (isOne && (isTwice || !this.isKept(from.reach))) return this.onOneReach(gap, ends, slopes[from.reach]!);
    if (to.cue - from.cue < MIN_VERTEX_FRAMES) return undefined;
    const reference = this.referenceOf(gap, ends, slopes);
    return reference && this.searched(gap, ends, reference, this.lockedIn(gap));
  }

  /** Two anchors on one reach: its line leads from one to the other, or an end of the clip gives. */
  private onOneReach({ from, to, isFirst, isLast }: Gap, ends: Ends, slope: number): Places | undefined {
    const by = to.position - from.position - slope * (to.cue - from.cue);
    const start = { t: from.cue, s: from.position };
    const end = { t: to.cue, s: to.position };
    let moved = 0;
    if (Math.abs(by) > 1e-7) {
      const slides = isLast && ends.freeEnd;
      const later = by / slope;
      const mayGive = isFirst ? ends.trimIn : isLast ? ends.trimOut : 0;
      if (slides ? Math.abs(later) > this.choice.patience : Math.abs(by) > mayGive + 1e-9) return undefined;
      if (isFirst) start.s += by;
      else if (slides) end.t += later;
      else end.s -= by;
      if (slides && end.t - start.t < MIN_VERTEX_FRAMES) return undefined;
      moved = slides ? later ** 2 : trimCost(by, slope);
    }
    const { room } = this.choice;
    if (room && (isOutside(start.s, from.position, room) || isOutside(end.s, to.position, room))) return undefined;
    const q = cleanSlope(slope)?.q ?? 0;
    const steps = q * (start.s - slope * start.t);
    const lost = Math.abs(steps - Math.round(steps)) > q * 1e-7 ? (end.t - start.t) / q : 0;
    return { map: { vertices: [start, end], bends: [HARD, HARD] }, lost, moved };
  }

  private searched(gap: Gap, ends: Ends, reference: Reference, locked: readonly number[]): Places | undefined {
    return placeOnReaches(
      reference,
      gap.inBends.map(({ landing }) => landing),
      gap.inBends.map(({ reach }) => reach - gap.from.reach),
      {
        locked,
        trimIn: gap.isFirst ? ends.trimIn : 0,
        trimOut: gap.isLast ? ends.trimOut : 0,
        freeEnd: gap.isLast && ends.freeEnd,
        patience: this.choice.patience,
        budget: { nodes: MAX_NODES },
        room: this.choice.room,
      },
      undefined,
    );
  }

  /** By how many real frames the reaches at these speeds have fewer than at the clip's own. */
  private fewerAt({ from }: Gap, { map: { vertices } }: Places, slopes: readonly number[]): number {
    if (slopes === this.map.slopes) return 0;
    return vertices.slice(1).reduce((frames, { t }, i) => {
      const reach = from.reach + i;
      return frames + (t - vertices[i]!.t) * shareLost(this.map.slopes[reach]!, slopes[reach]!);
    }, 0);
  }

  private isKept(reach: number): boolean {
    return this.map.slopes[reach] === 0 || this.choice.locked.includes(reach);
  }

  /** Locked reaches of a gap, counted from its first. */
  private lockedIn({ from, to }: Gap): number[] {
    return this.choice.locked.filter((i) => i >= from.reach && i <= to.reach).map((i) => i - from.reach);
  }

  /** The clip's curve from one anchor to the next as a curve of its own. */
  private referenceOf({ from, to, isFirst, isLast }: Gap, ends: Ends, slopes: readonly number[]) {
    const { vertices, bends } = this.map;
    const own = slopes.slice(from.reach, to.reach + 1);
    const inner = vertices.slice(from.reach + 1, to.reach + 1);
    const end = { t: to.cue, s: to.position };
    // What keeps its length on a reach that lands moves whole, as late as the landing is.
    if (from.reach === to.reach && this.isKept(from.reach)) {
      if (isLast && ends.freeEnd) end.t += from.late;
      else if (Math.abs(from.late - to.late) > 1e-9) return undefined;
    } else {
      const shift = (n: number, late: number) => (inner[n] = { ...inner[n]!, t: inner[n]!.t + late });
      if (!isFirst && this.isKept(from.reach)) shift(0, from.late);
      if (!isLast && this.isKept(to.reach)) shift(inner.length - 1, to.late);
    }
    return {
      vertices: [{ t: from.cue, s: from.position }, ...inner, end],
      bends: [HARD, ...bends.slice(from.reach + 1, to.reach + 1), HARD],
      slopes: own,
    };
  }

  /** The same at the clip's own speeds with a short stretch of a clean one no further off than a factor, where that gains the time that is missing. */
  withStretch(gap: Gap, ratio: number, speedsNear: SpeedsNear): Filled | undefined {
    const { from, to } = gap;
    const key = `stretch ${ratio},${from.cue},${from.reach},${to.cue},${to.reach}`;
    return this.once(key, () => this.stretched(gap, (slope) => speedsNear(slope, ratio)));
  }

  private stretched(gap: Gap, speedsOf: (slope: number) => readonly number[]): Filled | undefined {
    const missing = gap.to.late - gap.from.late;
    const reference = Math.abs(missing) > 1e-9 ? this.referenceOf(gap, STAY, this.map.slopes) : undefined;
    if (!reference) return undefined;
    const locked = this.lockedIn(gap);
    let best: Filled | undefined;
    for (const stretch of stretchesFor(reference, missing, locked, speedsOf)) {
      const behind = stretch.where === 'amid' ? 2 : 1;
      const found = this.searched(
        gap,
        STAY,
        withInserted(reference, stretch),
        locked.map((i) => (i > stretch.reach ? i + behind : i)),
      );
      if (found && isBetter(found, best)) best = { ...found, fewer: stretch.fewer };
      if (best?.lost === 0) return best;
    }
    return best;
  }
}

/** One curve of the parts between anchors: those themselves are no places where speed changes. */
export function joined(map: TimeMap, parts: readonly Places[]): TimeMap {
  const maps = parts.map((part) => part.map);
  const [first, last] = [maps[0]!, maps.at(-1)!];
  return checkTimeMap(
    {
      vertices: [first.vertices[0]!, ...maps.flatMap(({ vertices }) => vertices.slice(1, -1)), last.vertices.at(-1)!],
      bends: [map.bends[0]!, ...maps.flatMap(({ bends }) => bends.slice(1, -1)), map.bends.at(-1)!],
    },
    'landing',
  );
}
