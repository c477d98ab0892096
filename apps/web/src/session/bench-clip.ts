import type { Clip, Project, Source } from '@idle-bend/core/model';

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
