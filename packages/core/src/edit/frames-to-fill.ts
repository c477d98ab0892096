import { evenSpeeds } from '../cadence/cadence.js';
import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { positionAt } from '../time-map/evaluate.js';
import { straightMap } from '../time-map/time-map.js';
import { updateClip } from './edit.js';
import { withMap } from '../reel/with-map.js';

/** What a source gives at one speed: from the clip's in point to the end of its source, in timeline frames. */
interface Filling {
  readonly speed: number;
  readonly frames: number;
}

export interface FramesToFill {
  /** Timeline frames the clip's slot has. */
  readonly slot: number;
  /** At every even speed within the limits, slowest first. */
  readonly fillings: readonly Filling[];
}

const MIN_FILL_SPEED = 1 / 16;

const MAX_FILL_SPEED = 4;

/** How many frames a clip's slot needs, and how many its source gives at each even speed: those that skip whole frames or hold each alike. */
export function framesToFill(project: Project, clipId: string): FramesToFill | undefined {
  const placed = placeOf(project, clipId);
  if (placed?.item.kind !== 'clip') return undefined;
  const clip = placed.item;
  const source = sourceOf(project, clip);
  const first = Math.max(0, positionAt(clip.map, 0));
  const slope = clipSlope(project, clip);
  const last = usableFrames(source) - 1;
  const speeds = evenSpeeds(source.readAs, project.reel.rate, MIN_FILL_SPEED, MAX_FILL_SPEED);
  const fillings = speeds.map((speed) => ({
    speed,
    frames: Math.max(1, Math.floor((last - first) / (speed * slope) + 1e-9) + 1),
  }));
  return { slot: placed.frames, fillings };
}

/** The clip at one speed from its in point, as long as its slot, or as its source lasts where that is less. */
export function fillAt(project: Project, clipId: string, speed: number): Project {
  const found = framesToFill(project, clipId);
  const clip = placeOf(project, clipId)?.item as Clip | undefined;
  if (!found || !clip) return project;
  const gives = found.fillings.find((filling) => filling.speed === speed)?.frames ?? Infinity;
  const frames = Math.min(found.slot, gives);
  const first = Math.max(0, positionAt(clip.map, 0));
  return updateClip(project, clipId, (c) =>
    withMap(c, straightMap(frames, first, first + frames * speed * clipSlope(project, clip))),
  );
}
