import { describe, expect, test } from '@jest/globals';
import { accentsOf } from './accents.js';
import { candidatesOf, beatsOf } from './candidates.js';
import { evenBeatsNear } from './even.js';
import { noveltyOf } from './novelty.js';
import { beatsAt, drums, noiseOf, RATE, type Strike } from './test-drums.js';
import { ANY_TEMPO } from './tempo-range.js';

const FRAMES = 24_000;

/** Peaks at even places and, as strong, at so many others. */
function curveOf(period: number, start: number, others: number): Float32Array {
  const curve = new Float32Array(FRAMES);
  const noise = noiseOf(11);
  const strike = (place: number) => (curve[Math.round(place)] = 3 + noise());
  for (let place = start; place < FRAMES; place += period) strike(place);
  for (let i = 0; i < others; i++) strike(((noise() + 1) / 2) * (FRAMES - 1));
  return curve;
}

const furthest = (beats: readonly number[], period: number, start: number) =>
  Math.max(...beats.map((beat) => Math.abs((beat - start) / period - Math.round((beat - start) / period)) * period));

describe('even beats', () => {
  test.each([
    [97.3, 12, 0],
    [97.3, 80, 250],
    [63.7, 5, 400],
    [131.9, 0, 200],
    [44.01, 31, 500],
  ])(
    'of %f frames from %i on, with %i others, are met to a frame and a half over two minutes',
    (period, start, others) => {
      for (const about of [0.99, 0.997, 1, 1.004, 1.01]) {
        const beats = evenBeatsNear(curveOf(period, start, others), period * about);
        expect(furthest(beats, period, start)).toBeLessThan(1.5);
        expect(beats.length).toBe(Math.floor((FRAMES - 1 - beats[0]!) / (beats[1]! - beats[0]!) + 1e-9) + 1);
        expect(beats[0]).toBeLessThan(period);
      }
    },
  );

  test('of silence are even all the same', () => {
    const beats = evenBeatsNear(new Float32Array(2000), 100);
    expect(beats.length).toBeGreaterThan(18);
    expect(beats.every(Number.isFinite)).toBe(true);
  });
});

test('beats that are silent for a while, with something loud between them, are among what may be the beats all through', () => {
  const truth = beatsAt(118, 0.4, 60);
  // Breaks in which only what lies between the beats is struck: tracked beats go over to it, and some stay there.
  const strikes = truth.flatMap((time, i): Strike[] => {
    const half = time + 30 / 118;
    const isBreak = i % 40 >= 24;
    return isBreak
      ? [
          { time: half, drum: 'snare' },
          { time: half, drum: 'kick' },
        ]
      : [
          { time, drum: i % 2 === 0 ? 'kick' : 'snare' },
          { time: half, drum: 'hat' },
        ];
  });
  const novelty = noveltyOf(drums(strikes, 60), RATE);
  const all = candidatesOf(novelty, accentsOf(novelty), ANY_TEMPO, () => undefined);
  const met = (beats: readonly number[]) =>
    truth.filter((time) => beats.some((beat) => Math.abs(beat / novelty.rate - time) < 0.03)).length / truth.length;
  const usual = all.filter(({ pulse }) => Math.abs(Math.log((pulse.length - 1) / (truth.length - 1))) < 0.05);
  expect(Math.max(...usual.map((candidate) => met(beatsOf(candidate))))).toBeGreaterThan(0.98);
});
