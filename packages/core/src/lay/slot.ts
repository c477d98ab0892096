import type { SpeedLimits } from '../model/clip.js';

/** What a landing on the strongest beat is worth, against none. */
const STRONG = 0.6;

/** How much a change of speed within a clip counts against the change of speed itself. */
const UNEVEN = 0.35;

/** A moment nearer than this many frames to a cut cannot be seen to land. */
const CLEAR = 4;

/** What a landing costs for which the clip's own speeds have to be left, however little; less where places of change can move instead. */
const SQUEEZED = 0.25;
const MOVED = 0.08;

/** What it costs to show nothing but what lies outside the clip's in and out points. */
const ADDED = 0.4;

/** Times closer than this are the same, timeline frames. */
const SAME = 1e-6;

/** A clip as it matters here, its own curve being followed: times in timeline frames from its first frame. */
export interface Content {
  /** How many frames it has. */
  readonly frames: number;
  /** How many more its source has before its first frame and after its last at the speeds there. */
  readonly before: number;
  readonly after: number;
  /** How many frames of its slot it races in and out for, at its joins: no moment lands there. */
  readonly racesIn: number;
  readonly racesOut: number;
  /** Its mean speed (1 = 100 %). */
  readonly speed: number;
  /** Whether its speed changes somewhere. */
  readonly bent: boolean;
  /** When its moments show, in order. */
  readonly moments: readonly number[];
}

/** The music: where beats fall, whole timeline frames, and how strong they are, 0…1. */
export interface Music {
  readonly beats: ArrayLike<number>;
  readonly strengths: ArrayLike<number>;
}

/** A clip in its slot: what of its own curve it covers, and for each moment the beat it lands on, or −1. */
export interface SlotFit {
  readonly frames: number;
  /** The times of its own curve its first and last frame show. */
  readonly covers: readonly [first: number, last: number];
  /** Whether its own speeds do. */
  readonly keeps: boolean;
  readonly beats: readonly number[];
  readonly cost: number;
}

/** Logarithms of whole numbers: distances in frames, which are asked for millions of times. */
let logs = Float64Array.from({ length: 4096 }, (_, n) => Math.log(n));

function logOf(n: number): number {
  if (n >= logs.length) logs = Float64Array.from({ length: 2 * n }, (_, i) => Math.log(i));
  return logs[n]!;
}

/** How far the content of a stretch is to be squeezed (logarithm of a factor on its speeds), and how many of its frames lie outside the in or out point. */
interface Squeeze {
  log: number;
  added: number;
}

/**
 * Puts clips into slots of the music, one after another; owns the room for it. A clip's own speeds are kept and its content is cut, or goes on
 * into spare source; where that does not serve it is squeezed. Least is the sum of the squared change of log length, of what is squeezed
 * (weighed by time) and of changes of that from one stretch to the next, of what is added to the content, less what strong beats are worth;
 * over all ways to put the moments, in order, on beats or on none, by dynamic programming over (moment, beat).
 */
export class SlotFiller {
  /** By state: 0 is the clip's beginning; then, moment by moment, one for each place. */
  private cost = new Float64Array(256);
  private logSpeed = new Float64Array(256);
  private frame = new Int32Array(256);
  private before = new Int32Array(256);
  private places = new Int32Array(64);
  private readonly squeeze: Squeeze = { log: 0, added: 0 };

  constructor(
    private readonly music: Music,
    private readonly limits: SpeedLimits,
  ) {}

  /** The content from `start` to `end`, timeline frames, between beats `from` and `to`; `undefined` when the limits leave no way. */
  fill(content: Content, from: number, to: number, start: number, end: number): SlotFit | undefined {
    const { moments } = content;
    const frames = end - start;
    if (frames < 2) return undefined;
    const whole = logOf(frames) - logOf(content.frames);
    const logMean = Math.log(content.speed);
    const [slowest, fastest] = [Math.log(this.limits.slowest) - 1e-9, Math.log(this.limits.fastest) + 1e-9];
    const fixed = content.bent ? MOVED : SQUEEZED;
    const places = this.placesIn(
      from,
      to,
      start + Math.max(CLEAR, content.racesIn),
      end - Math.max(CLEAR, content.racesOut),
    );
    this.grow(1 + moments.length * places);
    const { cost, logSpeed, frame, before, squeeze } = this;
    [cost[0], frame[0]] = [0, start];
    const perFrame = 1 / frames;
    let states = 1;
    for (let m = 0; m <= moments.length; m++) {
      const known = states;
      const ending = m === moments.length;
      for (let p = 0; p < (ending ? 1 : places); p++) {
        const at = ending ? end - 1 : this.music.beats[this.places[p]!]!;
        let [best, bestLog, bestFrom] = [Infinity, 0, -1];
        for (let state = 0; state < known; state++) {
          const run = at - frame[state]!;
          if (run <= 0) continue;
          const moment = state === 0 ? -1 : Math.floor((state - 1) / places);
          squeezed(content, moment, ending ? -1 : m, run, squeeze);
          const { log, added } = squeeze;
          if (log !== 0 && !(log + logMean >= slowest && log + logMean <= fastest)) continue;
          const off = log === 0 ? 0 : fixed + log * log * run * perFrame;
          const turn = state === 0 ? 0 : UNEVEN * (log - logSpeed[state]!) * (log - logSpeed[state]!);
          const total = cost[state]! + off + turn + ADDED * added * perFrame;
          if (total < best) [best, bestLog, bestFrom] = [total, log, state];
        }
        if (ending) {
          if (best === Infinity) return undefined;
          const beats = this.way(bestFrom, moments.length, places);
          const covers = this.covers(content, beats, start, end);
          return { frames, ...covers, beats, cost: whole * whole + best };
        }
        cost[states] = best - STRONG * (this.music.strengths[this.places[p]!] ?? 0.4);
        logSpeed[states] = bestLog;
        frame[states] = best === Infinity ? end : at;
        before[states] = bestFrom;
        states++;
      }
    }
    return undefined;
  }

  /** What the first and the last frame show with the moments on those beats. */
  private covers(
    { frames, before, after, moments }: Content,
    beats: readonly number[],
    start: number,
    end: number,
  ): Pick<SlotFit, 'covers' | 'keeps'> {
    const landed = moments.flatMap((at, i) => (beats[i]! < 0 ? [] : [{ at, frame: this.music.beats[beats[i]!]! }]));
    const last = frames - 1;
    const run = end - 1 - start;
    const [least, most] = [-before, last + after];
    const [head, tail] = [landed[0], landed.at(-1)];
    let [from, to] = [0, last];
    if (head && tail) {
      from = Math.max(least, head.at - (head.frame - start));
      to = Math.min(most, tail.at + (end - 1 - tail.frame));
    } else {
      // Its end is cut, or goes on; what its source is short of there, it begins earlier.
      to = Math.min(most, run);
      if (to < run) from = Math.max(least, to - run);
    }
    const marks = [{ at: from, frame: start }, ...landed, { at: to, frame: end - 1 }];
    const keeps = marks.every(({ at, frame }, i) => {
      const next = marks[i + 1];
      return !next || Math.abs(next.at - at - (next.frame - frame)) < SAME;
    });
    return { covers: [from, to], keeps };
  }

  /** The beats in a slot on which a moment can be seen to land. */
  private placesIn(from: number, to: number, first: number, last: number): number {
    if (this.places.length <= to - from) this.places = new Int32Array(2 * (to - from) + 2);
    let count = 0;
    for (let beat = from; beat <= to; beat++) {
      const at = this.music.beats[beat]!;
      if (at >= first && at <= last) this.places[count++] = beat;
    }
    return count;
  }

  private way(state: number, moments: number, places: number): number[] {
    const beats = Array<number>(moments).fill(-1);
    for (let at = state; at > 0; at = this.before[at]!)
      beats[Math.floor((at - 1) / places)] = this.places[(at - 1) % places]!;
    return beats;
  }

  private grow(states: number): void {
    if (states <= this.cost.length) return;
    const room = 2 * states;
    [this.cost, this.logSpeed] = [new Float64Array(room), new Float64Array(room)];
    [this.frame, this.before] = [new Int32Array(room), new Int32Array(room)];
  }
}

/** From one moment to another (−1: the clip's beginning, or its end) in so many frames. */
function squeezed(
  { frames, before, after, moments }: Content,
  from: number,
  to: number,
  run: number,
  into: Squeeze,
): void {
  const [start, end] = [from < 0 ? 0 : moments[from]!, to < 0 ? frames - 1 : moments[to]!];
  const own = end - start;
  // Only an end of the clip may be cut, or go on.
  const isOpen = from < 0 || to < 0;
  const most = own + (from < 0 ? before : 0) + (to < 0 ? after : 0);
  if (Math.abs(own - run) < SAME || (run < own && isOpen)) [into.log, into.added] = [0, 0];
  else if (run <= most + SAME && most > own) [into.log, into.added] = [0, run - own];
  else [into.log, into.added] = [Math.log(most / run), most - own];
}
