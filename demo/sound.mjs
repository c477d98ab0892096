// The sound of a scene, made from what happens in it: rolling noise and a bell's partials.
import { writeWav } from './music/tape.mjs';

const RATE = 48000;

/** Partials of a small brass bell: ratio to the strike note, level, decay in seconds. */
const PARTIALS = [
  [0.5, 0.25, 1.9],
  [1, 1, 1.5],
  [1.19, 0.5, 1.2],
  [1.5, 0.3, 0.9],
  [2, 0.7, 0.8],
  [2.74, 0.3, 0.45],
  [3.76, 0.2, 0.3],
  [5.1, 0.1, 0.15],
];

/** Writes a mono 16-bit WAV for scenes that have sound; false for those that are silent. */
export async function soundOf(name, about, events, file) {
  if (name !== 'marble-bell' && name !== 'dominoes') return false;
  const samples = new Float64Array(Math.round((about.frames / about.fps) * RATE));
  let noise = 1;
  const random = () => (noise = (Math.imul(noise, 1664525) + 1013904223) >>> 0) / 2 ** 31 - 1;
  let smooth = 0;
  const first = events[0]?.seconds ?? 0;
  if (name === 'marble-bell')
    for (let i = 0; i < samples.length; i++) {
      const t = i / RATE;
      smooth += (random() - smooth) * 0.08;
      const speed = t < 0.28 ? 0 : t < first ? (t - 0.28) / (first - 0.28) : 0.3 * Math.exp(-(t - first) * 2);
      samples[i] += smooth * 0.35 * speed + random() * 0.002;
    }
  for (const { seconds, strength } of events) {
    const start = Math.round(seconds * RATE);
    const length = Math.min(samples.length - start, RATE * (name === 'marble-bell' ? 3 : 1));
    for (let i = 0; i < length; i++) {
      const t = i / RATE;
      if (name === 'marble-bell')
        for (const [ratio, level, decay] of PARTIALS)
          samples[start + i] +=
            0.16 * strength * level * Math.sin(2 * Math.PI * 1046.5 * ratio * t) * Math.exp(-t / decay);
      else
        samples[start + i] +=
          0.35 * strength * random() * Math.exp(-t / 0.012) +
          0.25 * strength * Math.sin(2 * Math.PI * 820 * t) * Math.exp(-t / 0.02);
    }
  }
  await writeWav(file, samples, RATE);
  return true;
}
