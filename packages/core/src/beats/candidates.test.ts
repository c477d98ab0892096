import { describe, expect, test } from '@jest/globals';
import { accentsOf } from './accents.js';
import { beatsOf, candidatesOf, FEWEST } from './candidates.js';
import { levelFeatures, PLACES, pulseTable, readingOf } from './level-features.js';
import { noveltyOf } from './novelty.js';
import { beatsAt, drums, noiseOf, RATE, rockOn } from './test-drums.js';
import { ANY_TEMPO } from './tempo-range.js';

const heardIn = (samples: Float32Array) => {
  const novelty = noveltyOf(samples, RATE);
  return { novelty, accents: accentsOf(novelty) };
};
const middleTempo = (beats: readonly number[], rate: number) => {
  const gaps = beats.slice(1).map((beat, i) => beat - beats[i]!);
  return (60 * rate) / gaps.sort((a, b) => a - b)[gaps.length >> 1]!;
};

describe('what may be the beats', () => {
  const truth = beatsAt(104, 0.3, 16);
  const { novelty, accents } = heardIn(drums(rockOn(truth), 16));
  const all = candidatesOf(novelty, accents, ANY_TEMPO, () => undefined);

  test('the beats are among them, and what is half way between, and every second', () => {
    const has = (times: readonly number[]) =>
      all.some((candidate) => {
        const found = beatsOf(candidate).map((beat) => beat / novelty.rate);
        const met = times.filter((time) => found.some((beat) => Math.abs(beat - time) < 0.03));
        return met.length > 0.9 * times.length && found.length < 1.15 * times.length;
      });
    expect(has(truth)).toBe(true);
    expect(has(truth.slice(1).map((time, i) => (time + truth[i]!) / 2))).toBe(true);
    expect(has(truth.filter((_, i) => i % 2 === 0)) || has(truth.filter((_, i) => i % 2 === 1))).toBe(true);
  });

  test('each has enough beats, later and later, within the range asked for', () => {
    for (const range of [ANY_TEMPO, { low: 90, high: 130 }])
      for (const candidate of candidatesOf(novelty, accents, range, () => undefined)) {
        const beats = beatsOf(candidate);
        expect(candidate.pulse.length).toBeGreaterThanOrEqual(FEWEST);
        expect(beats.every((beat, i) => i === 0 || beat > beats[i - 1]!)).toBe(true);
        const tempo = middleTempo(beats, novelty.rate);
        expect(tempo).toBeGreaterThan(0.96 * range.low);
        expect(tempo).toBeLessThan(1.04 * range.high);
      }
  });

  test('beats some places after a pulse lie that far between its own', () => {
    expect(beatsOf({ pulse: [0, 12, 36, 60], phase: 6 })).toEqual([6, 24, 48]);
    expect(beatsOf({ pulse: [0, 12, 36, 60], phase: 3 })).toEqual([3, 18, 42]);
    expect(beatsOf({ pulse: [0, 12, 36], phase: 0 })).toEqual([0, 12, 36]);
  });
});

describe('what is heard of a candidate', () => {
  test('half a beat later is the same as the pulse that is half a beat later', () => {
    const truth = beatsAt(100, 0.3, 14);
    const { novelty, accents } = heardIn(drums(rockOn(truth), 14));
    const beats = truth.map((time) => time * novelty.rate);
    const between = beats.slice(1).map((beat, i) => (beat + beats[i]!) / 2);
    const count = between.length - 1;
    const late = levelFeatures(readingOf(pulseTable(novelty, accents, beats), 6), 0, count);
    const own = levelFeatures(readingOf(pulseTable(novelty, accents, between), 0), 0, count);
    expect(late.length).toBe(own.length);
    late.forEach((value, i) => expect(Math.abs(value - own[i]!)).toBeLessThan(0.08));
  });

  test('numbers of a few at most, whatever it is: noise, silence, one click', () => {
    const noise = noiseOf(5);
    const sounds = [
      Float32Array.from({ length: 6 * RATE }, noise),
      new Float32Array(6 * RATE),
      drums([{ time: 2, drum: 'snare' }], 6),
    ];
    for (const sound of sounds) {
      const { novelty, accents } = heardIn(sound);
      const table = pulseTable(
        novelty,
        accents,
        Array.from({ length: 10 }, (_, i) => 20 + 110 * i),
      );
      for (let phase = 0; phase < PLACES; phase++)
        for (const value of levelFeatures(readingOf(table, phase), 0, 9)) {
          expect(Number.isFinite(value)).toBe(true);
          expect(Math.abs(value)).toBeLessThan(20);
        }
    }
  });

  test('a kick and its off-beat hat are told apart by what is low', () => {
    const truth = beatsAt(120, 0.25, 12);
    const strikes = truth.flatMap((time) => [
      { time, drum: 'kick' } as const,
      { time: time + 0.25, drum: 'hat' } as const,
    ]);
    const { novelty, accents } = heardIn(drums(strikes, 12));
    const table = pulseTable(
      novelty,
      accents,
      truth.map((time) => time * novelty.rate),
    );
    const lowAt = (place: number) => lowRise(table.rises.low, place);
    expect(lowAt(0)).toBeGreaterThan(5 * lowAt(6));
  });
});

const lowRise = (rises: Float64Array, place: number) => {
  const at = rises.filter((_, n) => n % PLACES === place);
  return at.reduce((a, b) => a + b, 0) / at.length;
};
