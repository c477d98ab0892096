import { bytesPerSample, type Frame } from '@idle-bend/core/frame';
import { DEFAULT_TUNING, type FlowTuning } from '@idle-bend/core/model';
import { estimate, PATCH, type GridFlow } from './estimate.js';
import { FlowKernels } from './flow-kernels.js';
import { Pictures } from './pictures.js';
import { EFFORTS, type FlowEffort, type Level } from './levels.js';
import { BLOCK, choiceDoubt, motionShares, type Blocks } from './choice.js';
import {
  paintInstant,
  settleInstant,
  solveInstant,
  weighBlocks,
  type Around,
  type SolvedInstant,
  type Wanted,
} from './synthesis.js';
import { noErrorTerms, score, type ErrorTerms } from './evidence.js';

/** The motion between two frames: one estimate, or more at the best level. It does not depend on any curve. */
export type PairFlow = readonly GridFlow[];

/** Whether frames of this size have room for motion to be found in; smaller ones can only be blended. */
export const canFlow = ({ width, height }: { width: number; height: number }): boolean =>
  Math.min(width, height) >= 2 * PATCH;

/** Bytes a pair's motion takes in memory. */
export const flowBytes = (pair: PairFlow): number =>
  pair.reduce((sum, { width, height }) => sum + width * height * 24, 0);

/** Numbers that stand for the pixels of the two frames: what was made of a frame is used again while it is held. */
export type Keys = readonly [number, number];

/** What a thread that finds motion for another is asked. */
export interface PairWish {
  readonly id: number;
  readonly a: Frame;
  readonly b: Frame;
  readonly level: Level;
  readonly keys: Keys;
}

/**
 * Motion between frames, and pictures in between. One instance to a thread and source; calls do not overlap. Its memory
 * grows to the largest picture seen and stays. Same frames and level, same bytes: nothing depends on what was asked before.
 */
export class Flow {
  private readonly kernels: FlowKernels;
  private readonly pictures: Pictures;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.kernels = new FlowKernels(module);
    this.pictures = new Pictures(this.kernels);
  }

  /** The motion from `a` to `b` and back. Throws `RangeError` when they differ in format or are too small. */
  pair(a: Frame, b: Frame, level: Level, keys?: Keys): PairFlow {
    return this.estimate(a, b, EFFORTS[level], keys);
  }

  /** As `pair`, with each estimate's effort said. */
  estimate(a: Frame, b: Frame, efforts: readonly FlowEffort[], keys?: Keys): PairFlow {
    if (a.data.length !== b.data.length || a.format.width !== b.format.width)
      throw new RangeError('there is no motion between frames of different formats');
    if (!canFlow(a.format))
      throw new RangeError(`frames of ${a.format.width} × ${a.format.height} are too small to find motion in`);
    const [first, second] = [this.pictures.of(a, keys?.[0]), this.pictures.of(b, keys?.[1])];
    return efforts.map((effort) => estimate(this.kernels, first, second, effort));
  }

  /**
   * The picture `fraction` (0…1) of the way from `a` to `b`, whose motion `pair` is, written to `out` (as long as the
   * frames) and returned; at 0 and 1 the frame itself.
   */
  between(
    a: Frame,
    b: Frame,
    pair: PairFlow,
    fraction: number,
    out: Uint8Array,
    options: BetweenOptions = {},
  ): Uint8Array {
    if (!(fraction >= 0 && fraction <= 1)) throw new RangeError(`the fraction ${fraction} is outside 0 to 1`);
    if (out.length !== a.data.length || b.data.length !== a.data.length)
      throw new RangeError(`a picture of ${a.data.length} bytes does not go into ${out.length}`);
    if (fraction === 0 || fraction === 1) {
      out.set(fraction === 0 ? a.data : b.data);
      return out;
    }
    const { arena, run } = this.kernels;
    const { layout } = a.format;
    const wantedOf = this.wanted(a, b, pair, fraction, options);
    const mark = arena.mark();
    const made = pair.map((_, i) => {
      const target = arena.take(out.length + 16);
      const within = arena.mark();
      const wanted = wantedOf(i);
      const moment = solveInstant(this.kernels, wanted, options.tuning ?? DEFAULT_TUNING);
      paintInstant(this.kernels, layout, wanted, moment, target);
      const { blocks, shares } = this.chosen(wanted, moment, options);
      settleInstant(this.kernels, layout, wanted, moment, shares, target);
      if (i === 0 && options.evidence)
        score(
          this.kernels,
          wanted,
          moment,
          across(pair, options.around),
          choiceDoubt(blocks, shares),
          options.evidence,
        );
      arena.release(within);
      return target;
    });
    const size = bytesPerSample(layout);
    const blend = size === 1 ? run.blend8 : run.blend16;
    // The mean of the first k + 1 is the mean of the first k, moved by one part in k + 1.
    for (let k = 1; k < made.length; k++)
      blend(made[0]!, made[k]!, made[0]!, out.length / size, Math.round(32768 / (k + 1)));
    out.set(new Uint8Array(arena.memory.buffer, made[0], out.length));
    arena.release(mark);
    return out;
  }

  /** What speaks against the picture `between` would make, without painting it. */
  evidence(a: Frame, b: Frame, pair: PairFlow, fraction: number, options: BetweenOptions = {}): ErrorTerms {
    const evidence = noErrorTerms();
    this.settled(a, b, pair, fraction, options, (wanted, moment) => {
      const { blocks, shares } = this.chosen(wanted, moment, options);
      const doubt = choiceDoubt(blocks, shares);
      score(this.kernels, wanted, moment, across(pair, options.around), doubt, evidence);
    });
    return evidence;
  }

  /** What tells, block by block, how well motion explains the picture `between` would make. */
  blocks(a: Frame, b: Frame, pair: PairFlow, fraction: number, options: BetweenOptions = {}): Blocks {
    return this.settled(a, b, pair, fraction, options, (wanted, moment) => weighBlocks(this.kernels, wanted, moment));
  }

  /** The motion `between` would go by at that moment, as copies: of several estimates, the first. */
  moment(a: Frame, b: Frame, pair: PairFlow, fraction: number, options: BetweenOptions = {}): Instant {
    const { width, height, shift } = pair[0]!;
    return this.settled(a, b, pair, fraction, options, (_, { vectors, weights }) => {
      const copy = (at: number, each: number) => this.kernels.copy(at, width * height * each);
      return { width, height, shift, vectors: copy(vectors, 4), weights: copy(weights, 2) };
    });
  }

  /** The share of the picture `between` would make that motion keeps, block by block; the rest is the plain blend. */
  kept(a: Frame, b: Frame, pair: PairFlow, fraction: number, options: BetweenOptions = {}): KeptShares {
    return this.settled(a, b, pair, fraction, options, (wanted, moment) => {
      const { blocks, shares } = this.chosen(wanted, moment, options);
      return { columns: blocks.columns, side: BLOCK << pair[0]!.shift, shares };
    });
  }

  private chosen(wanted: Wanted, moment: SolvedInstant, { byMotionAlone }: BetweenOptions) {
    const blocks = weighBlocks(this.kernels, wanted, moment);
    const shares = byMotionAlone ? new Float32Array(blocks.columns * blocks.rows).fill(1) : motionShares(blocks);
    return { blocks, shares };
  }

  private settled<T>(
    a: Frame,
    b: Frame,
    pair: PairFlow,
    fraction: number,
    options: BetweenOptions,
    use: (wanted: Wanted, moment: SolvedInstant) => T,
  ): T {
    const { arena } = this.kernels;
    const wanted = this.wanted(a, b, pair, fraction, options)(0);
    const mark = arena.mark();
    const result = use(wanted, solveInstant(this.kernels, wanted, options.tuning ?? DEFAULT_TUNING));
    arena.release(mark);
    return result;
  }

  /** What each of the pair's estimates is to be painted of. The pictures come first: they may take the memory again. */
  private wanted(
    a: Frame,
    b: Frame,
    pair: PairFlow,
    fraction: number,
    { around, keys, knot = false }: BetweenOptions,
  ): (i: number) => Wanted {
    const [first, second] = [this.pictures.of(a, keys?.[0]), this.pictures.of(b, keys?.[1])];
    const goesOn = (other: PairFlow | undefined) => (other && !isCut(other) ? other : undefined);
    const [before, after] = [goesOn(around?.before), goesOn(around?.after)];
    return (i) => ({
      a: first,
      b: second,
      flow: pair[i]!,
      fraction,
      around: { before: before?.[i], after: after?.[i] },
      knot,
    });
  }
}

export interface BetweenOptions {
  /** The pairs around bend the way between: with them, motion may speed up and turn. Those with a cut in them bend nothing. */
  readonly around?: Around<PairFlow>;
  /** Things hit or turn at one of the two frames, or between them: motion is not bent through it. */
  readonly knot?: boolean;
  readonly keys?: Keys;
  readonly tuning?: FlowTuning;
  /** Motion makes every place, also those it does not explain and the plain blend would make better. */
  readonly byMotionAlone?: boolean;
  /** Gets what speaks against the picture. */
  readonly evidence?: ErrorTerms;
}

/** 0 … 1 for every block of `side` × `side` pixels, row after row of so many columns. */
export interface KeptShares {
  readonly columns: number;
  readonly side: number;
  readonly shares: Float32Array;
}

/** The motion at a moment in between, on a grid of `width` × `height` points, 2^shift pixels apart. */
export interface Instant {
  readonly width: number;
  readonly height: number;
  readonly shift: number;
  /** For every point the way to where it is in the first picture (x, y) and in the second (x, y), in grid steps. */
  readonly vectors: Float32Array;
  /** For every point the shares of the two pictures; one near 0 is hidden there. */
  readonly weights: Float32Array;
}

/** Below this share of agreeing structure two frames show different things. Motion of every kind tried keeps above 0.6, cuts below 0.05. */
const CUT_BELOW = 0.2;

/** Whether a cut, or a flash, lies between the two frames: nothing in between can be made of both. */
export const isCut = (pair: PairFlow): boolean => pair[0]!.agreement < CUT_BELOW;

/**
 * Which of two pictures with a cut between them is shown `fraction` of the way: the nearer one; but one that is cut off on its
 * other side too is a flash, and then it is the other one all the way.
 */
export function sideOfCut(fraction: number, { before, after }: Around<PairFlow>): 0 | 1 {
  const [flashFirst, flashSecond] = [before !== undefined && isCut(before), after !== undefined && isCut(after)];
  if (flashFirst !== flashSecond) return flashFirst ? 1 : 0;
  return fraction < 0.5 ? 0 : 1;
}

const across = (pair: PairFlow, { before, after }: Around<PairFlow> = { before: undefined, after: undefined }) => ({
  isCut: isCut(pair),
  aside: (before !== undefined && isCut(before)) !== (after !== undefined && isCut(after)),
});
