/** Drums for tests: sound whose beats are known. */
export const RATE = 22050;

/** Plain noise, the same every time (a linear congruential generator). */
export function noiseOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 31 - 1;
}

type Drum = 'kick' | 'snare' | 'hat';

export interface Strike {
  readonly time: number;
  readonly drum: Drum;
  /** Against the others; 1 where it is not said. */
  readonly loud?: number;
}

/** `seconds` of strikes at a loudness. */
export function drums(strikes: readonly Strike[], seconds: number, loud = 0.5): Float32Array {
  const out = new Float32Array(Math.round(seconds * RATE));
  const noise = noiseOf(1);
  for (const { time, drum, loud: own = 1 } of strikes) {
    const start = Math.round(time * RATE);
    let last = 0;
    for (let i = 0; i < 0.25 * RATE && start + i < out.length; i++) {
      const t = i / RATE;
      const n = noise();
      const value =
        drum === 'kick'
          ? Math.sin(2 * Math.PI * (50 * t + 3 * (1 - Math.exp(-t / 0.025)))) * Math.exp(-t / 0.12)
          : drum === 'snare'
            ? (0.5 * n + 0.5 * Math.sin(2 * Math.PI * 190 * t)) * Math.exp(-t / 0.06)
            : 0.35 * (n - last) * Math.exp(-t / 0.02);
      last = n;
      out[start + i]! += loud * own * value;
    }
  }
  return out;
}

/** Kick and snare by turns, hats on halves: the usual beat in bars of four, every beat at the time given. */
export const rockOn = (beats: readonly number[]): Strike[] =>
  beats.flatMap((time, i): Strike[] => {
    const half = ((beats[i + 1] ?? 2 * time - beats[i - 1]!) - time) / 2;
    return [
      { time, drum: i % 2 === 0 ? 'kick' : 'snare' },
      { time, drum: 'hat' },
      { time: time + half, drum: 'hat' },
      ...(i % 4 === 2 ? [{ time: time + half, drum: 'kick' } as const] : []),
    ];
  });

/** Beats from `first` on at a tempo that may differ from beat to beat. */
export function beatsAt(tempo: number | ((second: number) => number), first: number, seconds: number): number[] {
  const beats: number[] = [];
  for (let t = first; t < seconds - 0.1; t += 60 / (typeof tempo === 'number' ? tempo : tempo(t))) beats.push(t);
  return beats;
}
