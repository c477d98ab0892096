import { describe, expect, test } from '@jest/globals';
import { reachOf, resample, SOUND_RATE } from './resample.js';

const { sin, PI, sqrt } = Math;

const tone = (hertz: number, count: number) =>
  Float32Array.from({ length: count }, (_, i) => sin((2 * PI * hertz * i) / SOUND_RATE));

const decibels = (a: ArrayLike<number>) =>
  20 * Math.log10(Math.max(1e-12, sqrt(Array.from(a).reduce((sum, v) => sum + v * v, 0) / a.length)));

/** A second of a tone read at a constant rate, from well inside it. */
function readAt(rate: number, hertz: number, count = 4800): { out: Float32Array; expected: Float64Array } {
  const source = tone(hertz, Math.ceil(count * rate) + 2 * reachOf(rate) + 100);
  const from = reachOf(rate) + 0.37;
  const positions = Float64Array.from({ length: count }, (_, n) => from + rate * n);
  const out = [new Float32Array(count), new Float32Array(count)] as const;
  resample([source, source], 0, positions, new Float64Array(count).fill(rate), out);
  return { out: out[0], expected: positions.map((p) => sin((2 * PI * hertz * p) / SOUND_RATE)) };
}

describe('reading a sound along a curve', () => {
  test.each([
    [1, 997],
    [0.4, 15_000],
    [0.05, 440],
    [2.5, 5000],
    [8, 2000],
    [20, 900],
  ])('at rate %d a tone of %d Hz is what it should be, to 80 dB', (rate, hertz) => {
    const { out, expected } = readAt(rate, hertz);
    expect(decibels(out.map((v, i) => v - expected[i]!))).toBeLessThan(-80);
  });

  test.each([
    [1.6, 18_000],
    [2.5, 9700],
    [4, 9000],
    [8, 23_000],
    [10, 2401],
    [20, 12_345],
  ])('at rate %d a tone of %d Hz, which is above what can be heard then, does not fold back: 80 dB', (rate, hertz) => {
    expect(decibels(readAt(rate, hertz).out)).toBeLessThan(-80 - 3);
  });

  test('a sweep read faster stays clean all the way through', () => {
    // From 200 Hz to 20 kHz in 2 s, read 3 times as fast: what would be above 24 kHz is not there.
    const count = 2 * SOUND_RATE;
    const phase = (i: number) => (2 * PI * (200 * i + ((20_000 - 200) * i * i) / (2 * count))) / SOUND_RATE;
    const source = Float32Array.from({ length: count }, (_, i) => sin(phase(i)));
    const positions = Float64Array.from({ length: count / 3 - 400 }, (_, n) => 300 + 3 * n);
    const out = [new Float32Array(positions.length), new Float32Array(positions.length)] as const;
    resample([source, source], 0, positions, new Float64Array(positions.length).fill(3), out);
    const hertzAt = (p: number) => 200 + ((20_000 - 200) * p) / count;
    const heard = positions.findIndex((p) => 3 * hertzAt(p) > 0.82 * 24_000);
    const gone = positions.findIndex((p) => 3 * hertzAt(p) > 24_500);
    const error = out[0].subarray(0, heard).map((v, i) => v - sin(phase(positions[i]!)));
    expect(decibels(error)).toBeLessThan(-80);
    expect(decibels(out[0].subarray(gone))).toBeLessThan(-80);
  });

  test('through a change from 40 % to 250 % it follows the curve exactly: no step, no line at any rate of blocks', () => {
    const count = SOUND_RATE;
    const [rates, positions] = [new Float64Array(count), new Float64Array(count)];
    let at = 2000;
    for (let n = 0; n < count; n++) {
      const u = n / count;
      rates[n] = 0.4 + 2.1 * u * u * (3 - 2 * u);
      positions[n] = at;
      at += rates[n]!;
    }
    const out = [new Float32Array(count), new Float32Array(count)] as const;
    const heard = tone(1000, at + 4000);
    resample([heard, heard], 0, positions, rates, out);
    const error = out[0].map((v, n) => v - sin((2 * PI * 1000 * positions[n]!) / SOUND_RATE));
    expect(decibels(error)).toBeLessThan(-80);
    expect(error.reduce((most, e) => Math.max(most, Math.abs(e)), 0)).toBeLessThan(1e-3);
  });

  test('backward it is the sound the other way round; outside there is silence', () => {
    const source = Float32Array.from({ length: 2000 }, (_, i) => sin(i * i * 1e-4));
    const positions = Float64Array.from({ length: 1000 }, (_, n) => 1500 - n);
    const out = [new Float32Array(1000), new Float32Array(1000)] as const;
    resample([source, source], 0, positions, new Float64Array(1000).fill(-1), out);
    // The kernel leaves out what is near the very top.
    expect(decibels(out[0].map((v, n) => v - source[1500 - n]!))).toBeLessThan(-60);
    resample(
      [source, source],
      0,
      positions.map((p) => p + 5000),
      new Float64Array(1000).fill(1),
      out,
    );
    expect(out[0].every((v) => v === 0)).toBe(true);
  });
});
