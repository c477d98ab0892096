import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { pairMotion, ROUGH_BELOW, type SourceMotion } from '../motion/source-motion.js';
import { sourceOf } from '../reel/clips.js';
import { interpolationOf } from '../reel/interpolation.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { sampleInterpolated } from '../sampling/interpolation.js';
import { partsOf, type Sample } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';

/** A stretch of a clip where Flow is likely to tear or smear. */
export interface RoughSpot {
  /** The first and the last of its timeline frames, counted in the clip. */
  readonly from: number;
  readonly to: number;
  /** Native frames it lies between, the earlier one first. */
  readonly sourceFrom: number;
  readonly sourceTo: number;
  /** How many of its frames are made and rough. */
  readonly frames: number;
  /** The least sure of them, 0…1. */
  readonly confidence: number;
  /** The pair of the least sure one. */
  readonly worst: { readonly a: number; readonly b: number };
}

/** How sure a sample is to look right, 0…1; 1 for what Flow does not make, or made only in the lesser part. */
function confidenceOf(motion: SourceMotion, sample: Sample): number {
  if (sample.kind === 'fade' && sample.share >= 0.5) return 1;
  const flow = partsOf(sample).find((part) => part.kind === 'flow');
  return flow ? (pairMotion(motion, flow.a, flow.b)?.confidence ?? 1) : 1;
}

/** How sure each timeline frame of a clip is to look right. */
export function clipConfidence(project: Project, clip: Clip, motion: SourceMotion): Float64Array {
  const samples = clipSamples(project, clip);
  return Float64Array.from(samples, (sample) => confidenceOf(motion, sample));
}

function clipSamples(project: Project, clip: Clip): Sample[] {
  const source = sourceOf(project, clip);
  const making = interpolationOf(project, clip);
  const count = clipFrameCount(clip.map, usableFrames(source));
  return Array.from({ length: count }, (_, k) =>
    sampleInterpolated(source, making, clip.end, positionAt(clip.map, k), k),
  );
}

/** Rough frames with no more than this many source frames passed between them are one spot. */
const SAME_SPOT = 3;

/** The rough spots of a clip, in the order of its timeline. */
export function roughSpots(project: Project, clip: Clip, motion: SourceMotion): RoughSpot[] {
  const spots: RoughSpot[] = [];
  let passed = 0;
  for (const [k, sample] of clipSamples(project, clip).entries()) {
    // What is played there and back is two spots, so it is the way that counts and not where it leads.
    if (k > 0) passed += Math.abs(positionAt(clip.map, k) - positionAt(clip.map, k - 1));
    const confidence = confidenceOf(motion, sample);
    const flow = partsOf(sample).find((part) => part.kind === 'flow');
    if (confidence >= ROUGH_BELOW || !flow) continue;
    const { a, b } = flow;
    const last = spots.at(-1);
    if (!last || passed > SAME_SPOT)
      spots.push({ from: k, to: k, sourceFrom: a, sourceTo: b, frames: 1, confidence, worst: { a, b } });
    else spots[spots.length - 1] = joined(last, k, confidence, a, b);
    passed = 0;
  }
  return spots;
}

function joined(spot: RoughSpot, k: number, confidence: number, a: number, b: number): RoughSpot {
  const least =
    confidence < spot.confidence ? { confidence, worst: { a, b } } : { confidence: spot.confidence, worst: spot.worst };
  return {
    from: spot.from,
    to: k,
    sourceFrom: Math.min(spot.sourceFrom, a),
    sourceTo: Math.max(spot.sourceTo, b),
    frames: spot.frames + 1,
    ...least,
  };
}

/** Most doubtful first: what a list shows. */
export const byDoubt = (spots: readonly RoughSpot[]): RoughSpot[] =>
  spots.toSorted((x, y) => x.confidence - y.confidence || x.from - y.from);
