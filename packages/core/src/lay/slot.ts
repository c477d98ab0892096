import type { SpeedLimits } from '../model/clip.js';

/** What a landing on the strongest beat is worth, against none. */
const STRONG = 0.6;

/** How much a change of speed within a clip counts against the change of speed itself. */
const UNEVEN = 0.35;

/** A moment nearer than this many frames to a cut cannot be seen to land. */
const CLEAR = 4;

/** A clip as it matters here: what it shows and its moments, in source positions, in the order it shows them. */
export interface Content {
  readonly first: number;
  readonly last: number;
  /** Source frames of a timeline frame at 100 %. */
  readonly slope: number;
  readonly moments: readonly number[];
}

/** The music: where beats fall, whole timeline frames, and how strong they are, 0…1. */
export interface Music {
  readonly beats: ArrayLike<number>;
  readonly strengths: ArrayLike<number>;
}

/** A clip in its slot: the mean speed that asks for, and for each moment the beat it lands on, or −1. */
export interface SlotFit {
  readonly frames: number;
  readonly speed: number;
  readonly beats: readonly number[];
  readonly cost: number;
}

/** Logarithms of whole numbers: distances in frames, which are asked for millions of times. */
let logs = Float64Array.from({ length: 4096 }, (_, n) => Math.log(n));

function logOf(n: number): number {
  if (n >= logs.length) logs = Float64Array.from({ length: 2 * n }, (_, i) => Math.log(i));
  return logs[n]!;
}

/**
 * Puts clips into slots of the music, one after another; owns the room for it. Least is the sum of the squared change of log speed on
 * the whole, of the same within the clip (weighed by time), of changes from one stretch to the next, less what strong beats are worth;
 * over all ways to put the moments, in order, on beats or on none, by dynamic programming over (moment, beat).
 */
export class SlotFiller {
  /** By state: 0 is the clip's beginning; then, moment by moment, one for each place. */
  private cost = new Float64Array(256);
  private logSpeed = new Float64Array(256);
  private frame = new Int32Array(256);
  private before = new Int32Array(256);
  private places = new Int32Array(64);

  constructor(
    private readonly music: Music,
    private readonly limits: SpeedLimits,
  ) {}

  /** The content from `start` to `end`, timeline frames, between beats `from` and `to`; `undefined` when the limits leave no way. */
  fill(
    { first, last, slope, moments }: Content,
    from: number,
    to: number,
    start: number,
    end: number,
  ): SlotFit | undefined {
    const frames = end - start;
    if (frames < 2) return undefined;
    const logSlope = Math.log(slope);
    const [slowest, fastest] = [Math.log(this.limits.slowest) - 1e-9, Math.log(this.limits.fastest) + 1e-9];
    const whole = Math.log(Math.abs(last - first)) - logOf(frames - 1) - logSlope;
    if (!(whole >= slowest && whole <= fastest)) return undefined;
    const places = this.placesIn(from, to, start, end);
    this.grow(1 + moments.length * places);
    const { cost, logSpeed, frame, before } = this;
    [cost[0], frame[0]] = [0, start];
    const perFrame = 1 / frames;
    let states = 1;
    for (let m = 0; m <= moments.length; m++) {
      const known = states;
      const ending = m === moments.length;
      let best = Infinity;
      let bestFrom = -1;
      for (let p = 0; p < (ending ? 1 : places); p++) {
        const at = ending ? end - 1 : this.music.beats[this.places[p]!]!;
        best = Infinity;
        let bestSpeed = 0;
        let source = -1;
        let distance = 0;
        for (let state = 0; state < known; state++) {
          const run = at - frame[state]!;
          if (run <= 0) continue;
          // States of one moment follow one another: how far it is in the source is worked out once for all of them.
          const moment = state === 0 ? -1 : Math.floor((state - 1) / places);
          if (moment !== source || state === 0) {
            source = moment;
            distance =
              Math.log(Math.abs((ending ? last : moments[m]!) - (moment < 0 ? first : moments[moment]!))) - logSlope;
          }
          const speed = distance - logOf(run);
          if (!(speed >= slowest && speed <= fastest)) continue;
          const off = (speed - whole) * (speed - whole) * run * perFrame;
          const turn = state === 0 ? 0 : UNEVEN * (speed - logSpeed[state]!) * (speed - logSpeed[state]!);
          const total = cost[state]! + off + turn;
          if (total < best) [best, bestSpeed, bestFrom] = [total, speed, state];
        }
        if (ending) break;
        cost[states] = best - STRONG * (this.music.strengths[this.places[p]!] ?? 0.4);
        logSpeed[states] = bestSpeed;
        frame[states] = best === Infinity ? end : at;
        before[states] = bestFrom;
        states++;
      }
      if (ending)
        return best === Infinity
          ? undefined
          : {
              frames,
              speed: Math.exp(whole),
              beats: this.way(bestFrom, moments.length, places),
              cost: whole * whole + best,
            };
    }
    return undefined;
  }

  /** The beats in a slot on which a moment can be seen to land. */
  private placesIn(from: number, to: number, start: number, end: number): number {
    if (this.places.length <= to - from) this.places = new Int32Array(2 * (to - from) + 2);
    let count = 0;
    for (let beat = from; beat <= to; beat++) {
      const at = this.music.beats[beat]!;
      if (at - start >= CLEAR && end - at >= CLEAR) this.places[count++] = beat;
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
