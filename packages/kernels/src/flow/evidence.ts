import type { ChoiceDoubt } from './choice.js';
import type { FlowKernels } from './flow-kernels.js';
import type { SolvedInstant, Wanted } from './synthesis.js';

/** What speaks against an in-between of Flow: mean squares in grey levels of 8 bits. */
export interface ErrorTerms {
  /** The two pictures differ by this where both are said to show the same, but for light. */
  photometric: number;
  /** Light that is in one of them only, place by place. */
  light: number;
  /** Slope where motion is not trusted. */
  untrusted: number;
  /** What it would change if things went straight. */
  curvature: number;
  /** A change of light that those before and after do not go on with, at the moment in between. */
  flashed: number;
  /** What motion and the plain blend differ by where neither was chosen for certain. */
  doubted: number;
  /** What a cut may show wrongly, or a picture that is held up to a flash; 0 elsewhere. */
  cut: number;
}

export const noErrorTerms = (): ErrorTerms => ({
  photometric: 0,
  light: 0,
  untrusted: 0,
  curvature: 0,
  flashed: 0,
  doubted: 0,
  cut: 0,
});

/**
 * How much of each becomes error, found by comparing with the true frames of drawn sequences with crossings, occlusion, shaking,
 * turning and flashes (`bench/rough.bench.mjs`), and an error that is always there.
 */
const SHARES: Readonly<Record<keyof ErrorTerms, number>> = {
  photometric: 1.15,
  light: 0.6,
  untrusted: 0.45,
  curvature: 1.4,
  flashed: 1,
  doubted: 1,
  cut: 0.5,
};
const ALWAYS = 2;

/** The peak signal to noise ratio the picture is expected to have, dB at a peak of 255; meant to be right at 26, where rough begins. */
export function expectedDecibels(evidence: ErrorTerms): number {
  const error = (Object.keys(SHARES) as (keyof ErrorTerms)[]).reduce(
    (sum, kind) => sum + SHARES[kind] * evidence[kind],
    ALWAYS,
  );
  return 10 * Math.log10((255 * 255) / error);
}

/** Below this, dB, an in-between is rough. */
const ROUGH_DECIBELS = 26;
/** The estimate is off by about this much, dB. */
const UNSURE_DECIBELS = 1.5;

/** 0…1: how sure the picture is to look right; 0.5 where it is expected to have 26 dB. */
export const confidence = (evidence: ErrorTerms): number =>
  1 / (1 + Math.exp((ROUGH_DECIBELS - expectedDecibels(evidence)) / UNSURE_DECIBELS));

/** What is known of a pair as a whole. */
export interface Across {
  /** Nothing goes on from one picture to the other. */
  readonly isCut: boolean;
  /** One of them is cut off on both sides, a flash, and the other is shown. */
  readonly aside: boolean;
}

/** Weighs a settled moment and what was chosen of it. */
export function score(
  kernels: FlowKernels,
  wanted: Wanted,
  moment: SolvedInstant,
  { isCut, aside }: Across,
  { kept, open }: ChoiceDoubt,
  evidence: ErrorTerms,
): void {
  const { arena, run } = kernels;
  const { a, b, flow, fraction, around } = wanted;
  const { vectors, weights, scores, lumas } = moment;
  const [exposedFirst, exposedSecond] = lumas;
  const mark = arena.mark();
  const before = around.before ? kernels.load(around.before.backward.flow) : 0;
  const after = around.after ? kernels.load(around.after.forward.flow) : 0;
  const out = arena.take(64);
  const [luma, plane] = [exposedFirst[0]!, exposedFirst[flow.shift]!];
  run.errorTerms({
    ...{ a: luma.at, b: exposedSecond[0]!.at, first: a.lumas[0]!.at, second: b.lumas[0]!.at, stride: luma.stride },
    ...{ scale: 2 ** flow.shift, plane: plane.at, planeStride: plane.stride, width: flow.width, height: flow.height },
    ...{ fraction, vectors, weights, scores0: scores[0], scores1: scores[1], before, after, out },
  });
  const [photometric, light, untrusted, curvature, unmoved] = new Float32Array(
    arena.memory.buffer,
    out,
    5,
  ) as unknown as [number, number, number, number, number];
  arena.release(mark);
  if (isCut) Object.assign(evidence, noErrorTerms(), { cut: aside ? missed(wanted) : unmoved * wrongSide(fraction) });
  else
    Object.assign(evidence, {
      ...{ photometric: photometric * kept, light: light * kept, untrusted: untrusted * kept },
      // A jump that was said to be there is followed, not bent through.
      curvature: wanted.knot ? 0 : curvature * kept,
      ...{ flashed: flash(wanted), doubted: open, cut: 0 },
    });
}

/** A picture that is held up to a flash is rough once things have gone further than this meanwhile, in pixels. */
const HELD_PIXELS = 1.5;
const ROUGH_ERROR = 400;

/** What a picture that is held up to a flash beside it fails to show: the motion there was on its other side, had it gone on. */
function missed({ fraction, around: { before, after } }: Wanted): number {
  const pair = before ?? after;
  // Where nothing is known it may be anything.
  if (!pair) return ROUGH_ERROR;
  const { flow, trust } = pair.forward;
  let [sum, count] = [0, 0];
  for (let i = 0; i < trust.length; i += 7)
    if (trust[i]! > 0.3) [sum, count] = [sum + Math.hypot(flow[2 * i]!, flow[2 * i + 1]!), count + 1];
  const way = (sum / Math.max(1, count)) * 2 ** pair.shift * (before ? fraction : 1 - fraction);
  return way > HELD_PIXELS ? ROUGH_ERROR : 0;
}

/** How likely the side of a cut that is shown is the wrong one: the more, the nearer to the middle. */
const wrongSide = (fraction: number): number => 1 - Math.abs(2 * fraction - 1);

/** Mid grey, in the 12-bit steps exposure is measured in. */
const MID = 2048;

/** The error where light that only one of the pictures has is shown in part. */
function flash({ flow, fraction, around: { before, after } }: Wanted): number {
  const change = (pair: typeof flow | undefined) =>
    pair && Math.log(Math.max(0.05, pair.exposure.gain + pair.exposure.offset / MID));
  const own = change(flow)!;
  const [first, second] = [alone(own, change(before), change(after)), alone(own, change(after), change(before))];
  return ((MID / 16) * (second >= first ? second * fraction : first * (1 - fraction))) ** 2;
}

/**
 * How much light a picture has for itself: as much as goes on one side of it and back on the other; where nothing is known of
 * one side, what the change on the other does not go on with further off.
 */
function alone(own: number, beside: number | undefined, further: number | undefined): number {
  if (beside !== undefined) return own * beside < 0 ? Math.min(Math.abs(own), Math.abs(beside)) : 0;
  return further !== undefined && own * further > 0 ? Math.max(0, Math.abs(own) - Math.abs(further)) : Math.abs(own);
}
