/** A moment to be met: source position `moment` is to show at timeline frame `cue` of the map. */
export interface Landing {
  readonly moment: number;
  readonly cue: number;
}

/** Slowest and fastest slope of a moving reach, as magnitudes in source frames per timeline frame. */
export interface SlopeLimits {
  readonly slowest: number;
  readonly fastest: number;
}

/** Whether a slope lies within limits; a freeze always does. */
export const isWithin = (slope: number, { slowest, fastest }: SlopeLimits): boolean =>
  slope === 0 || (Math.abs(slope) >= slowest * (1 - 1e-9) && Math.abs(slope) <= fastest * (1 + 1e-9));
