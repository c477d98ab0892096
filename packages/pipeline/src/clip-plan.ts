import { exposed } from '@idle-bend/core/blur';
import { NO_BLUR, type Blur, type EndChoice, type DroppedRepeats } from '@idle-bend/core/model';
import {
  flowSampleAt,
  isWholeFrame,
  sampleInterpolated,
  type InterpolationSettings,
  type Sample,
} from '@idle-bend/core/sampling';
import { constantPosition, positionAt, type ConstantClip, type TimeMap } from '@idle-bend/core/time-map';

/** Which source position every output frame of a clip shows, and how it is made. */
export interface ClipPlan {
  readonly frameCount: number;
  position(k: number): number;
  sample(k: number): Sample;
}

export interface SamplingChoice {
  readonly sourceFrames: number;
  /** Repeats of the source that are left out. */
  readonly droppedRepeats?: DroppedRepeats | null;
  readonly making: InterpolationSettings;
  /** Without one, a frame that asks for source that is not there is an error. */
  readonly end: EndChoice | undefined;
  /** Motion blur, and the source frames a timeline frame passes at 100 %. */
  readonly blur?: { readonly blur: Blur; readonly slope: number };
}

function plan(
  frameCount: number,
  position: (k: number) => number,
  { sourceFrames, droppedRepeats = null, making, end, blur }: SamplingChoice,
): ClipPlan {
  const source = { frames: sourceFrames, droppedRepeats };
  const exposing = {
    position,
    speed: (t: number) => (position(t + SPEED_STEP) - position(t - SPEED_STEP)) / (2 * SPEED_STEP) / (blur?.slope ?? 1),
    moment: (s: number) => flowSampleAt(source, making, end, s),
    from: 0,
    to: frameCount,
  };
  const sample = (k: number): Sample =>
    exposed(sampleInterpolated(source, making, end, position(k), k), blur?.blur ?? NO_BLUR, exposing, k);
  return { frameCount, position, sample };
}

/** Timeline frames over which a speed is taken. */
const SPEED_STEP = 1 / 64;

/** A clip at one speed, its positions exact. */
export function planConstant(clip: ConstantClip, choice: SamplingChoice): ClipPlan {
  const slope = Number(clip.step.num) / Number(clip.step.den);
  // Blur asks between frames too, where exactness to the last bit is nothing.
  return plan(clip.count, (t) => (Number.isInteger(t) ? constantPosition(clip, t) : clip.origin + t * slope), choice);
}

/** A time map taken at its word: `frameCount` frames, without trimming. */
export function planMap(map: TimeMap, frameCount: number, choice: SamplingChoice): ClipPlan {
  return plan(frameCount, (k) => positionAt(map, k), choice);
}

/** One line of a report. `made` says the position lies between two source frames. */
export interface PlannedFrame {
  readonly frame: number;
  readonly source: number;
  readonly made: boolean;
}

export function describePlan(clipPlan: ClipPlan): PlannedFrame[] {
  return Array.from({ length: clipPlan.frameCount }, (_, frame) => {
    const source = clipPlan.position(frame);
    return { frame, source, made: !isWholeFrame(source) };
  });
}
