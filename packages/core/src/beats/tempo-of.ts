/** The median tempo of beats, beats a minute. */
export function tempoOf(beats: readonly number[]): number | undefined {
  const gaps = beats
    .slice(1)
    .map((b, i) => b - beats[i]!)
    .sort((a, b) => a - b);
  return gaps.length > 0 ? 60 / gaps[gaps.length >> 1]! : undefined;
}
