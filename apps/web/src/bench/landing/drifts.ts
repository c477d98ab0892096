import { clipDrifts, type Drift } from '@idle-bend/core/landing';
import { positionOfFrame } from '@idle-bend/core/sampling';
import type { BenchClip } from '../../session/bench-state.ts';

/** How a clip's moments stand to the cues they are tied to, or nearest to. */
export const driftsOf = ({ clip, start, frames, source, project }: BenchClip): Drift[] =>
  clipDrifts(clip, start, frames, source.moments, project.reel.cues, (frame) => positionOfFrame(source, frame));
