import {
  type EndChoice,
  DEFAULT_TUNING,
  type FlowTuning,
  type Mend,
  type Method,
  sameTuning,
} from '../model/interpolation.js';
import { frameOfPosition, type RepeatedSource, samplerWithoutRepeats } from './dropped-repeats.js';
import { type PlainSample, sampleAt, type SimpleSample } from './sample.js';

/** How the in-betweens of a clip are made. */
export interface InterpolationSettings {
  readonly method: Method;
  readonly tuning: FlowTuning;
  /** Stretches of the clip's own time, in timeline frames, that are made another way. */
  readonly stretches: readonly { readonly from: number; readonly to: number; readonly method: Method }[];
  readonly mends: readonly Mend[];
  /** Native frames at which things hit or turn. */
  readonly knots: readonly number[];
}

/** One method throughout. */
export const plainInterpolation = (method: Method): InterpolationSettings => ({
  method,
  tuning: DEFAULT_TUNING,
  stretches: [],
  mends: [],
  knots: [],
});

/** Whether any frame may ask for Flow. */
export const usesFlow = ({ method, stretches }: InterpolationSettings): boolean =>
  method === 'flow' || stretches.some((s) => s.method === 'flow');

/** The method of timeline frame k, mends apart. */
export const methodAt = ({ method, stretches }: InterpolationSettings, k: number): Method =>
  stretches.find(({ from, to }) => k >= from && k < to)?.method ?? method;

/**
 * What shows source position `position` of a clip at its timeline frame `k`. Throws `InvalidInput` as `sampleAt` does.
 */
export function sampleInterpolated(
  source: RepeatedSource,
  making: InterpolationSettings,
  end: EndChoice | undefined,
  position: number,
  k: number,
): PlainSample {
  const sample = (method: Method): SimpleSample =>
    knotted(samplerWithoutRepeats(source, (p, count) => sampleAt(p, count, method, end, k))(position), making.knots);
  const own = tuned(sample(methodAt(making, k)), making.tuning);
  if (making.mends.length === 0 || own.kind === 'black') return own;
  const frame = frameOfPosition(source, position);
  const mended = strongestMend(making.mends, frame);
  if (!mended) return own;
  const { mend, share } = mended;
  if (mend.way === 'hold') {
    // From one real frame to the other: nothing between them is made.
    const [held, next] = [mend.from, Math.min(mend.to, source.frames - 1)].map((n): SimpleSample => ({
      kind: 'source',
      frame: Math.round(n),
    })) as [SimpleSample, SimpleSample];
    return share >= 1 ? held : { kind: 'fade', from: next, to: held, share };
  }
  // Frames of the source stay as they are.
  if (own.kind === 'source') return own;
  const other = sample(mend.way);
  return share >= 1 ? other : { kind: 'fade', from: own, to: other, share };
}

/** The moment of a clip at a source position as Flow makes it, whatever the clip's own way: what passes by while a shutter is open. */
export const flowSampleAt = (
  source: RepeatedSource,
  { tuning, knots }: Pick<InterpolationSettings, 'tuning' | 'knots'>,
  end: EndChoice | undefined,
  position: number,
): SimpleSample =>
  tuned(
    knotted(
      samplerWithoutRepeats(source, (p, count) => sampleAt(p, count, 'flow', end === 'loop' ? 'loop' : 'hold'))(
        position,
      ),
      knots,
    ),
    tuning,
  );

/** How much of a frame a mend has, 0…1, `frame` a native position. */
export function mendShare({ from, to, way, soft }: Mend, frame: number): number {
  if (way === 'hold') {
    // A frozen picture begins on its own frame; only the way back is soft, and inside the stretch.
    if (frame < from || frame >= to) return 0;
    const room = Math.min(soft, (to - from) / 2);
    return room <= 0 ? 1 : Math.min(1, (to - frame) / room);
  }
  const outside = Math.max(from - frame, frame - to, 0);
  if (outside === 0) return 1;
  return soft <= 0 ? 0 : Math.max(0, 1 - outside / soft);
}

function strongestMend(mends: readonly Mend[], frame: number): { mend: Mend; share: number } | undefined {
  let best: { mend: Mend; share: number } | undefined;
  for (const mend of mends) {
    const share = mendShare(mend, frame);
    if (share > (best?.share ?? 0)) best = { mend, share };
  }
  return best;
}

const tuned = (sample: SimpleSample, tuning: FlowTuning): SimpleSample =>
  sample.kind === 'flow' && !sameTuning(tuning, DEFAULT_TUNING) ? { ...sample, tuning } : sample;

const knotted = (sample: SimpleSample, knots: readonly number[]): SimpleSample =>
  sample.kind === 'flow' && knots.some((knot) => knot === sample.a || knot === sample.b)
    ? { ...sample, knot: true }
    : sample;
