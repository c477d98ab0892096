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
