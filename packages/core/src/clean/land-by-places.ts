import { cleanSlopesNear } from '../cadence/clean-slope.js';
import { positionAt } from '../time-map/evaluate.js';
import type { TimeMap } from '../time-map/time-map.js';
import { assignments } from './assignments.js';
import { type Gap, gapsOf } from './gaps.js';
import { type Ends, type Filled, joined, Parts, type SpeedsNear } from './parts.js';
import type { Places } from './place-vertices.js';
import { type Reference, slopesOf } from './reference.js';
import { isWithin, type Landing, type SlopeLimits } from './landing.js';

/** What may be done so that the places where speeds change meet the landings. */
export interface PlacesFreedom {
  /** Reaches that keep their length and what they show, by index. */
  readonly locked: readonly number[];
  /** Whether the clip may end earlier or later. */
  readonly freeEnd: boolean;
  /** Source frames the in and the out point may be trimmed by, where nothing else meets the landings; as much as the patience shows of them where it is not said. */
  readonly trim: { readonly in?: number | undefined; readonly out?: number | undefined };
  /** How far a place may move beyond what the landings are off by, timeline frames. */
  readonly patience: number;
  /** Slopes that reaches may have, as magnitudes, freezes apart; where the map's own are others, its places are not moved. */
  readonly limits?: SlopeLimits | undefined;
  /** Source positions there are. */
  readonly room?: { readonly from: number; readonly to: number };
}

/** Two landings that ask for another speed between them get a stretch of one no further from theirs than this factor. */
export const MAX_STRETCH_RATIO = 1.5;

/** How many other speeds are tried for a whole reach. */
const MAX_SPEEDS = 4;

/** Further than this factor the time between two landings is not made up for. */
const MOST_ASKED = 3;

/** Of how many reaches the speed may be another one. */
const MAX_CHANGED = 2;

/** Ways of laying the landings on reaches for which stretches, and other speeds, are tried. */
const MAX_DIVIDED = 3;

/** How much less welcome each of what may be done is than moving a place. */
const RANK = { freeEnd: 1, trim: 2, stretch: 5, speed: 11 } as const;

/** An answer for one gap, or several in a row: what it lost and moved, and how unwelcome what it did is. */
interface Answer {
  readonly parts: readonly Places[];
  /** Real frames off the pattern of their reach, and those that other speeds have fewer. */
  readonly lost: number;
  readonly fewer: number;
  readonly rank: number;
  readonly moved: number;
}

/**
 * Meets the landings at the speeds there are: the places where they change move. Of what leaves every reach as many real frames as it can have,
 * the most welcome: in and out points stay; the end moves, where it may; the out point or the in point is trimmed; a short stretch of a
 * neighbouring clean speed between two landings; whole reaches at such a speed. What lies between two landings is found by itself (`gapsOf`),
 * and other speeds by dynamic programming from landing to landing. `undefined` where nothing does within the patience.
 */
export function landByPlaces(map: TimeMap, landings: readonly Landing[], freedom: PlacesFreedom): Places | undefined {
  return meetByPlaces(
    { ...map, slopes: slopesOf(map) },
    landings,
    freedom,
    assignments(map, landings, freedom.patience),
  );
}

/** The same for speeds that need not be those between the places, with the ways of laying the landings on reaches, the likeliest first. */
export function meetByPlaces(
  map: Reference,
  landings: readonly Landing[],
  { locked, freeEnd, trim, patience, limits, room }: PlacesFreedom,
  onReaches: readonly (readonly number[])[],
): Places | undefined {
  const within = (slope: number) => !limits || isWithin(slope, limits);
  const { slopes } = map;
  if (!slopes.every(within)) return undefined;
  const trimmed: Ends = {
    trimIn: trim.in ?? patience * Math.abs(slopes[0]!),
    trimOut: trim.out ?? patience * Math.abs(slopes.at(-1)!),
    freeEnd,
  };
  const near = new Map<number, readonly number[]>();
  const speedsNear = (slope: number, ratio: number) => {
    // The clip's own few speeds are asked for with one ratio, but where two moments ask for more.
    if (ratio !== MAX_STRETCH_RATIO) return cleanSlopesNear(slope, ratio).filter(within);
    let found = near.get(slope);
    if (!found) near.set(slope, (found = cleanSlopesNear(slope, ratio).filter(within)));
    return found;
  };
  const ways = new Ways(new Parts(map, { locked, patience, room }), map, trimmed, locked, speedsNear);
  let least: Answer | undefined;
  let best: TimeMap | undefined;
  const better = (answer: Answer | undefined) => {
    if (!answer || !isBetter(answer, least)) return;
    const whole = joined(map, answer.parts);
    if (isMet(whole, landings)) [least, best] = [answer, whole];
  };
  const gaps = onReaches.map((reaches) => gapsOf(map, landings, reaches)).filter((each) => each !== undefined);
  // Off its bends first: inside one, the frames about a landing are made.
  const isOff = (each: readonly Gap[]) => each.every(({ inBends }) => inBends.length === 0);
  const [offBends, inBends] = [gaps.filter(isOff), gaps.filter((each) => !isOff(each))];
  for (const each of offBends) better(ways.plain(each, least));
  if (least?.lost !== 0 || least.rank > 0) for (const each of inBends) better(ways.plain(each, least));
  // A map of one speed is not divided.
  if (least?.lost !== 0 && slopes.length > 1) {
    const few = offBends.slice(0, MAX_DIVIDED);
    for (const each of few) better(ways.divided(each, least));
    for (const some of [few, inBends.slice(0, MAX_DIVIDED)])
      for (let most = 1; most <= MAX_CHANGED; most++)
        if (least?.lost !== 0) for (const each of some) better(ways.atOtherSpeeds(each, most));
    if (!least) for (const each of few) better(ways.asAsked(each));
  }
  return least && best && { map: best, lost: least.lost, moved: least.moved };
}

/** The ways of filling all gaps of a clip. */
class Ways {
  constructor(
    private readonly parts: Parts,
    private readonly map: Reference,
    private readonly ends: Ends,
    private readonly locked: readonly number[],
    private readonly speedsNear: SpeedsNear,
  ) {}

  /** Only places move, and the ends. */
  plain(gaps: readonly Gap[], best?: Answer): Answer | undefined {
    return inARow(gaps, (gap) => this.plainOf(gap, this.map.slopes), best);
  }

  /** … and where that does not do, there are short stretches of other speeds. */
  divided(gaps: readonly Gap[], best?: Answer): Answer | undefined {
    return inARow(gaps, (gap) => this.dividedOf(gap), best);
  }

  /** … and where two landings ask for more than a neighbouring speed, for one no further from that than such speeds are. */
  asAsked(gaps: readonly Gap[]): Answer | undefined {
    return inARow(gaps, (gap) => this.dividedOf(gap) ?? this.stretched(gap, MAX_STRETCH_RATIO * askedRatio(gap)));
  }

  private plainOf(gap: Gap, slopes: readonly number[]): Answer | undefined {
    let best: Answer | undefined;
    for (const { ends, rank } of this.endsOf(gap)) {
      const found = this.parts.between(gap, ends, slopes);
      const answer = found && answerOf(found, rank);
      if (answer && isBetter(answer, best)) best = answer;
      if (best?.lost === 0) break;
    }
    return best;
  }

  private dividedOf(gap: Gap): Answer | undefined {
    const plain = this.plainOf(gap, this.map.slopes);
    if (plain?.lost === 0 || gap.inBends.length > 0) return plain;
    const answer = this.stretched(gap, MAX_STRETCH_RATIO);
    return answer && isBetter(answer, plain) ? answer : plain;
  }

  private stretched(gap: Gap, ratio: number): Answer | undefined {
    const found = this.parts.withStretch(gap, ratio, this.speedsNear);
    return found && answerOf(found, RANK.stretch);
  }

  /** What the clip's ends may do about a gap, the most welcome first. */
  private endsOf({ isFirst, isLast }: Gap): readonly { ends: Ends; rank: number }[] {
    const { trimIn, trimOut, freeEnd } = this.ends;
    const into = isFirst && trimIn > 0 ? [0, trimIn] : [0];
    const out = [
      { trimOut: 0, freeEnd: false, rank: 0 },
      ...(isLast && freeEnd ? [{ trimOut: 0, freeEnd: true, rank: RANK.freeEnd }] : []),
      ...(isLast && trimOut > 0 ? [{ trimOut, freeEnd: false, rank: RANK.trim }] : []),
    ];
    return into.flatMap((by) =>
      out.map(({ rank, ...end }) => ({ ends: { trimIn: by, ...end }, rank: rank + (by > 0 ? RANK.trim : 0) })),
    );
  }

  /** At most so many reaches have another speed where that loses least: for every speed of the reach an anchor lies on, the best way up to there. */
  atOtherSpeeds(gaps: readonly Gap[], most: number): Answer | undefined {
    const { slopes } = this.map;
    const others = (reach: number): readonly number[] =>
      slopes[reach] === 0 || this.locked.includes(reach)
        ? []
        : this.speedsNear(slopes[reach]!, MAX_STRETCH_RATIO).slice(0, MAX_SPEEDS);
    // Only those beside a gap that is not filled without it.
    const isOpen = gaps.map((gap) => this.dividedOf(gap)?.lost !== 0);
    const mayChange = (reach: number) =>
      gaps.some(({ from, to }, n) => isOpen[n] && reach >= from.reach && reach <= to.reach);
    const speedsOf = (reach: number) => [slopes[reach]!, ...(mayChange(reach) ? others(reach) : [])];
    let states = speedsOf(0).map((speed): State => {
      const changed = speed === slopes[0] ? 0 : 1;
      return { speed, changed, answer: { ...NOTHING, rank: RANK.speed * changed } };
    });
    for (const gap of gaps) {
      const { from, to } = gap;
      const inner = Array.from({ length: Math.max(0, to.reach - from.reach - 1) }, (_, n) => from.reach + 1 + n);
      const between = inner.flatMap((reach) => others(reach).map((speed) => ({ reach, speed })));
      states = speedsOf(to.reach).flatMap((speed) => {
        let best: State | undefined;
        for (const state of states) {
          if (from.reach === to.reach && state.speed !== speed) continue;
          const isNew = from.reach !== to.reach && speed !== slopes[to.reach];
          const at = slopes.with(from.reach, state.speed).with(to.reach, speed);
          const changed = state.changed + (isNew ? 1 : 0);
          if (changed <= most) best = this.into(best, state, gap, at, changed);
          for (const each of changed < most ? between : [])
            best = this.into(best, state, gap, at.with(each.reach, each.speed), changed + 1);
        }
        return best ? [best] : [];
      });
    }
    return states.reduce<Answer | undefined>((best, { answer }) => (isBetter(answer, best) ? answer : best), undefined);
  }

  /** The better of the best way so far and the one from a state over a gap at these speeds. */
  private into(
    best: State | undefined,
    state: State,
    gap: Gap,
    speeds: readonly number[],
    changed: number,
  ): State | undefined {
    const isOwn = speeds.every((slope, i) => slope === this.map.slopes[i]);
    const found = isOwn ? this.dividedOf(gap) : this.plainOf(gap, speeds);
    if (!found) return best;
    const answer = sum(state.answer, found, RANK.speed * (changed - state.changed));
    return isBetter(answer, best?.answer) ? { speed: speeds[gap.to.reach]!, changed, answer } : best;
  }
}

/** The best way up to an anchor whose reach has this speed. */
interface State {
  readonly speed: number;
  /** How many reaches have another speed than their own. */
  readonly changed: number;
  readonly answer: Answer;
}

/** By what factor the time between two anchors is other than the curve's. */
function askedRatio({ from, to }: Gap): number {
  const time = to.cue - from.cue;
  const was = time - (to.late - from.late);
  return was > 0 ? Math.min(MOST_ASKED, Math.max(was / time, time / was)) : 1;
}

const NOTHING: Answer = { parts: [], lost: 0, fewer: 0, rank: 0, moved: 0 };

const answerOf = (found: Filled, rank: number): Answer => ({
  parts: [found],
  lost: found.lost,
  fewer: found.fewer,
  rank,
  moved: found.moved,
});

const sum = (a: Answer, b: Answer, rank = 0): Answer => ({
  parts: [...a.parts, ...b.parts],
  lost: a.lost + b.lost,
  fewer: a.fewer + b.fewer,
  rank: a.rank + b.rank + rank,
  moved: a.moved + b.moved,
});

/** Gaps one after another; `undefined` where one has no answer, or all are no better than `best`. */
function inARow(gaps: readonly Gap[], fill: (gap: Gap) => Answer | undefined, best?: Answer): Answer | undefined {
  let all: Answer | undefined = NOTHING;
  for (const gap of gaps) {
    const found: Answer | undefined = fill(gap);
    if (!found) return undefined;
    all = sum(all, found);
    if (!isBetter(all, best)) return undefined;
  }
  return all;
}

/** More real frames first, then what is more welcome, then less that moves. */
function isBetter(answer: Answer, best: Answer | undefined): boolean {
  if (!best) return true;
  const gained = best.lost + best.fewer - answer.lost - answer.fewer;
  if (Math.abs(gained) > 1e-9) return gained > 0;
  return answer.rank < best.rank || (answer.rank === best.rank && answer.moved < best.moved);
}

const isMet = (map: TimeMap, landings: readonly Landing[]): boolean =>
  landings.every(({ moment, cue }) => Math.abs(positionAt(map, cue) - moment) <= 1e-7);
