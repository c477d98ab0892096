import type { Blur } from '../model/blur.js';
import type { Clip } from '../model/clip.js';
import type { FlowTuning, Method } from '../model/interpolation.js';
import type { RampJoin } from '../model/join.js';
import type { Project } from '../model/project.js';
import type { InterpolationSettings } from '../sampling/interpolation.js';
import { allClips, sourceOf } from './clips.js';

/** How the group a clip is inside of says its in-betweens are made, where it does. */
export interface InheritedSettings {
  readonly method?: Method | undefined;
  readonly tuning?: FlowTuning | undefined;
  readonly blur?: Blur | undefined;
}

/** The way a clip's in-betweens are made, reaches and mends apart. */
export const methodOf = ({ reel }: Project, clip: Clip, madeAs: InheritedSettings = {}): Method =>
  clip.method ?? madeAs.method ?? reel.method;

export const tuningOf = ({ reel }: Project, clip: Clip, madeAs: InheritedSettings = {}): FlowTuning =>
  clip.tuning ?? madeAs.tuning ?? reel.tuning;

/** How a clip's in-betweens are made, with everything it says of stretches. */
export function interpolationOf(project: Project, clip: Clip, madeAs: InheritedSettings = {}): InterpolationSettings {
  const { vertices } = clip.map;
  const stretches = clip.reachMethods.map(({ reach, method }) => ({
    // The first and the last reach own what lies beyond them too.
    from: reach === 0 ? -Infinity : vertices[reach]!.t,
    to: reach === vertices.length - 2 ? Infinity : vertices[reach + 1]!.t,
    method,
  }));
  return {
    method: methodOf(project, clip, madeAs),
    tuning: tuningOf(project, clip, madeAs),
    stretches,
    mends: clip.mends,
    knots: sourceOf(project, clip).moments.flatMap(({ kind, frame }) => (kind ? [frame] : [])),
  };
}

/** The motion blur of a clip at its frame t: of a join where it ramps, else its own, its group's, the reel's. */
export function blurOf({ reel }: Project, clip: Clip, t: number, madeAs: InheritedSettings = {}): Blur {
  const joined = reel.joins.find((join) => join.blur && inRamp(join, clip, t));
  return joined?.blur ?? clip.blur ?? madeAs.blur ?? reel.blur;
}

const inRamp = ({ before, after, into, outOf }: RampJoin, { id, map }: Clip, t: number): boolean =>
  (before === id && t >= map.vertices.at(-1)!.t - into) || (after === id && t < outOf);

/** Whether any clip may be blurred. */
export const usesBlur = (project: Project): boolean =>
  [
    project.reel.blur,
    ...allClips(project).map(({ blur }) => blur),
    ...project.reel.joins.map(({ blur }) => blur),
    ...project.sources.flatMap(({ content }) => content?.joins.map(({ blur }) => blur) ?? []),
  ].some((blur) => blur && blur.kind !== 'none');
