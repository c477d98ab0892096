/** How a waveform is drawn: the least and the greatest sample of every hundredth of a second, as signed bytes in turn. */
export const PEAKS_PER_SECOND = 100;

/** The peaks of one channel at `rate` samples a second: 2 · ⌈seconds · 100⌉ bytes, −127 … 127. */
export function peaksOf(samples: Float32Array, rate: number): Int8Array {
  const count = Math.ceil((samples.length / rate) * PEAKS_PER_SECOND);
  const peaks = new Int8Array(2 * count);
  const byte = (value: number) => Math.round(127 * Math.max(-1, Math.min(1, value)));
  for (let n = 0; n < count; n++) {
    const end = Math.min(samples.length, Math.round(((n + 1) * rate) / PEAKS_PER_SECOND));
    let [low, high] = [Infinity, -Infinity];
    for (let i = Math.round((n * rate) / PEAKS_PER_SECOND); i < end; i++) {
      if (samples[i]! < low) low = samples[i]!;
      if (samples[i]! > high) high = samples[i]!;
    }
    if (low <= high) [peaks[2 * n], peaks[2 * n + 1]] = [byte(low), byte(high)];
  }
  return peaks;
}
