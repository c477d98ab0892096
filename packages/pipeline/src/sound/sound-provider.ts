/** Two channels of equal length, −1 … 1 each sample. */
export type Stereo = readonly [left: Float32Array, right: Float32Array];

/** The sound of a source, at `SOUND_RATE`, in any order. */
export interface SoundProvider {
  /** Samples `from` … `from + count − 1`; what lies outside the source is silence. */
  read(from: number, count: number): Promise<Stereo>;
}

export const silence = (count: number): Stereo => [new Float32Array(count), new Float32Array(count)];

/** A sound that is in memory. */
export const inMemory = ([left, right]: Stereo): SoundProvider => ({
  read: (from, count) => Promise.resolve([windowOf(left, from, count), windowOf(right, from, count)]),
});

function windowOf(channel: Float32Array, from: number, count: number): Float32Array {
  if (from >= 0 && from + count <= channel.length) return channel.subarray(from, from + count);
  const out = new Float32Array(count);
  const [low, high] = [Math.max(0, from), Math.min(channel.length, from + count)];
  if (high > low) out.set(channel.subarray(low, high), low - from);
  return out;
}
