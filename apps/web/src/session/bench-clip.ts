import { isGroup, type Clip, type Project, type Source } from '@idle-bend/core/model';

/** The clip on the bench with everything one needs to speak of it. */
export interface BenchClip {
  readonly project: Project;
  readonly clip: Clip;
  readonly source: Source;
  /** Reel frame of the clip's first frame. */
  readonly start: number;
  readonly frames: number;
  /** k₀ */
  readonly slope: number;
}

/** All that decides how a clip looks on the bench: while these stay, nothing of it has to be drawn again. */
export function valuesOf({ project, clip, source, start, frames, slope }: BenchClip): readonly unknown[] {
  const { rate, method, tuning } = project.reel;
  return [clip, source, isGroup(source) && project.sources, start, frames, slope, rate, method, tuning];
}

/** All that decides where there is something to land on. */
export const landingPlaces = ({ reel }: Project): readonly unknown[] => [reel.cues, reel.sounds, reel.rate];
