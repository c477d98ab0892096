import type { FlowKernels } from './flow-kernels.js';
import type { SettledMoment, Wanted } from './synthesis.js';

/** What speaks against an in-between of Flow: mean squares in grey levels of 8 bits. */
export interface Evidence {
  /** The two pictures differ by this where both are said to show the same. */
  apart: number;
  /** Slope where motion is not trusted. */
  untrusted: number;
  /** What it would change if things went straight. */
  bowed: number;
  /** A change of light that those before and after do not go on with, at the moment in between. */
  flashed: number;
  /** What a cut, or a flash that nothing can be matched across, may show wrongly; 0 elsewhere. */
  cut: number;
}

export const noEvidence = (): Evidence => ({ apart: 0, untrusted: 0, bowed: 0, flashed: 0, cut: 0 });

/**
 * How much of each becomes error, found by comparing with the true frames of drawn sequences with crossings, occlusion, shaking,
 * turning and flashes (`bench/rough.bench.mjs`), and an error that is always there.
 */
const SHARES: Readonly<Record<keyof Evidence, number>> = { apart: 0.8, untrusted: 0.3, bowed: 1.5, flashed: 1, cut: 0.5 };
const ALWAYS = 2;

/** The peak signal to noise ratio the picture is expected to have, dB at a peak of 255; meant to be right at 26, where rough begins. */
export function expectedDecibels(evidence: Evidence): number {
  const error = (Object.keys(SHARES) as (keyof Evidence)[]).reduce((sum, kind) => sum + SHARES[kind] * evidence[kind], ALWAYS);
  return 10 * Math.log10((255 * 255) / error);
}

/** Below this, dB, an in-between is rough. */
const ROUGH_DECIBELS = 26;
/** The estimate is off by about this much, dB. */
const UNSURE_DECIBELS = 1.5;

/** 0…1: how sure the picture is to look right; 0.5 where it is expected to have 26 dB. */
export const confidence = (evidence: Evidence): number => 1 / (1 + Math.exp((ROUGH_DECIBELS - expectedDecibels(evidence)) / UNSURE_DECIBELS));

/** Weighs a settled moment; `isCut` says that nothing goes on from one picture to the other. */
export function weigh(kernels: FlowKernels, wanted: Wanted, moment: SettledMoment, isCut: boolean, evidence: Evidence): void {
  const { arena, run } = kernels;
  const { a, b, flow, fraction, around } = wanted;
  const { vectors, weights, scores, lumas } = moment;
  const [exposedFirst, exposedSecond] = lumas;
  const mark = arena.mark();
  const before = around.before ? kernels.load(around.before.backward.flow) : 0;
  const after = around.after ? kernels.load(around.after.forward.flow) : 0;
  const out = arena.take(64);
  const [luma, plane] = [exposedFirst[0]!, exposedFirst[flow.shift]!];
  run.doubt(
    ...[luma.at, exposedSecond[0]!.at, a.lumas[0]!.at, b.lumas[0]!.at, luma.stride, 2 ** flow.shift, plane.at, plane.stride],
    ...[flow.width, flow.height, fraction, vectors, weights, ...scores, before, after, out],
  );
  const [apart, untrusted, bowed, unmoved] = new Float32Array(arena.memory.buffer, out, 4) as unknown as [number, number, number, number];
  arena.release(mark);
  // Across a cut one side is shown: it is the wrong one the more likely the nearer to the middle.
  const wrongSide = 1 - Math.abs(2 * fraction - 1);
  if (isCut) Object.assign(evidence, noEvidence(), { cut: unmoved * wrongSide });
  else Object.assign(evidence, { apart, untrusted, bowed, flashed: flash(wanted), cut: 0 });
}

/** Mid grey, in the 12-bit steps exposure is measured in. */
const MID = 2048;

/** The error when half of a sudden change of exposure is shown where none of it was, or all. */
function flash({ flow, around }: Wanted): number {
  const light = (pair: typeof flow) => Math.log(Math.max(0.05, pair.exposure.gain + pair.exposure.offset / MID));
  const own = light(flow);
  const beside = [around.before, around.after].filter((pair) => pair !== undefined).map(light);
  const sudden = beside.length > 0 ? Math.max(...beside.map((other) => Math.abs(own - other))) : Math.abs(own);
  return ((MID / 16) * sudden * 0.25) ** 2;
}
