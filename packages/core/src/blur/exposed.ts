import type { Blur } from '../model/blur.js';
import { type PlainSample, type Sample, type SimpleSample, WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { exposureAt } from './exposure.js';

/** A clip's time as blur asks of it; t in its timeline frames. */
export interface Exposing {
  readonly position: (t: number) => number;
  /** 1 = 100 %. */
  readonly speed: (t: number) => number;
  /** What shows a source position by Flow. */
  readonly moment: (position: number) => SimpleSample;
  /** Times before and after which there is nothing. */
  readonly from: number;
  readonly to: number;
}

/** Parts of an exposure; as many of them as the motion needs, evenly spread, stand for all. */
const FEW = 27;

const MANY = 81;

/** Source frames in one exposure from which many are needed. */
const LONG = 9;

/**
 * A frame as it looks through an open shutter. The shutter is open about `t`, so that what lands there still does. Where nothing
 * moves meanwhile, or the shutter is closed, the frame is what it was, bit for bit.
 * @param pace how many of the clip's timeline frames pass in a frame of the reel
 */
export function exposed(
  now: PlainSample,
  blur: Blur,
  { position, speed, moment, from, to }: Exposing,
  t: number,
  pace = 1,
): Sample {
  if (blur.kind === 'none' || now.kind === 'black' || pace === 0) return now;
  const open =
    blur.kind === 'smear' ? fadedExposure(blur, (at) => speed(at) * pace, t, pace) : exposureAt(blur, speed(t) * pace);
  if (!(open > 0)) return now;
  const [start, end] = [t - (open * pace) / 2, t + (open * pace) / 2]
    .map((at) => Math.min(to, Math.max(from, at)))
    .sort((a, b) => a - b) as [number, number];
  if (blur.kind === 'smear') {
    const way = position(end) - position(start);
    const at = moment(Math.floor(position(t)) + 0.5);
    return Math.abs(way) <= WHOLE_FRAME_TOLERANCE || at.kind !== 'flow'
      ? now
      : { kind: 'smear', now, along: at, frames: way };
  }
  const reach = Math.abs(position(end) - position(start));
  const count = reach > LONG ? MANY : FEW;
  const edges = Array.from({ length: count + 1 }, (_, i) => position(start + ((end - start) * i) / count));
  if (edges.every((s) => Math.abs(s - edges[0]!) <= WHOLE_FRAME_TOLERANCE)) return now;
  const steps = Array.from({ length: count }, (_, i) => moment(position(start + ((end - start) * (i + 0.5)) / count)));
  return { kind: 'shutter', now, edges, steps };
}

/** The exposure averaged over the fade, so that it comes and goes softly at a hard change of speed. */
function fadedExposure(
  blur: Extract<Blur, { kind: 'smear' }>,
  speed: (t: number) => number,
  t: number,
  pace: number,
): number {
  const half = blur.fade / 2;
  const count = Math.max(1, 2 * Math.ceil(half) + 1);
  let sum = 0;
  for (let i = 0; i < count; i++)
    sum += exposureAt(blur, speed(t + (count === 1 ? 0 : (-half + (2 * half * i) / (count - 1)) * pace)));
  return sum / count;
}
