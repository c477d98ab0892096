import { describe, expect, it } from '@jest/globals';
import { analyseBeats, type BeatAnalysis } from './analyse.js';
import { beatStrengths } from './strength.js';
import { beatsAt, drums, noiseOf, RATE, rockOn, type Strike } from './test-drums.js';

const heard = (strikes: readonly Strike[], seconds: number, loud?: number) =>
  analyseBeats(drums(strikes, seconds, loud), RATE);

/** F-measure of events found within `tolerance` seconds of those that are there. */
function met(truth: readonly number[], found: readonly number[], tolerance: number): number {
  let [i, j, hits] = [0, 0, 0];
  while (i < truth.length && j < found.length) {
    const off = found[j]! - truth[i]!;
    if (Math.abs(off) <= tolerance) [i, j, hits] = [i + 1, j + 1, hits + 1];
    else if (off < 0) j++;
    else i++;
  }
  return (2 * hits) / (truth.length + found.length);
}

const onsetsOf = ({ onsets }: BeatAnalysis, band: string) => onsets.filter((o) => o.band === band).map((o) => o.time);

describe('beats', () => {
  it.each([
    [76, 0.4],
    [100, 0.2],
    [117, 0.65],
    [150, 0.1],
  ])('at %d a minute from %d s are found to a few milliseconds, with their bars', (tempo, first) => {
    const truth = beatsAt(tempo, first, 16);
    const found = heard(rockOn(truth), 16);
    expect(Math.abs(found.tempo / tempo - 1)).toBeLessThan(0.01);
    expect(met(truth, found.beats, 0.005)).toBeGreaterThan(0.95);
    expect(found.bar.beats % 2).toBe(0);
  });

  it('follow a tempo that drifts, and one that changes half way', () => {
    const drifting = beatsAt((s) => 104 + 6 * Math.sin(s / 4), 0.3, 24);
    expect(met(drifting, heard(rockOn(drifting), 24).beats, 0.03)).toBeGreaterThan(0.93);
    const changing = beatsAt((s) => (s < 14 ? 92 : 128), 0.3, 28);
    expect(met(changing, heard(rockOn(changing), 28).beats, 0.07)).toBeGreaterThan(0.93);
  });

  it('are where they are whatever the loudness, and later by as much as silence comes before', () => {
    const truth = beatsAt(110, 0.5, 12);
    const loud = heard(rockOn(truth), 12);
    const quiet = heard(rockOn(truth), 12, 0.01);
    expect(met(loud.beats, quiet.beats, 0.004)).toBe(1);
    const later = heard(rockOn(truth.map((t) => t + 1)), 13);
    expect(
      met(
        loud.beats.map((t) => t + 1),
        later.beats,
        0.005,
      ),
    ).toBeGreaterThan(0.95);
  });

  it('of three parts each are found as such: six eight', () => {
    const truth = beatsAt(72, 0.4, 20);
    const strikes = truth.flatMap((time, i): Strike[] => {
      const third = 60 / 72 / 3;
      return [
        { time, drum: i % 2 === 0 ? 'kick' : 'snare' },
        ...[0, 1, 2].map((k) => ({ time: time + k * third, drum: 'hat' }) as const),
      ];
    });
    expect(met(truth, heard(strikes, 20).beats, 0.02)).toBeGreaterThan(0.95);
  });

  it('are looked for in the range asked for', () => {
    const truth = beatsAt(140, 0.3, 12);
    const { tempo } = analyseBeats(drums(rockOn(truth), 12), RATE, { low: 60, high: 80 });
    expect(Math.abs(tempo / 70 - 1)).toBeLessThan(0.02);
  });

  it('take the simple multiple nearest to a range that none lies in', () => {
    const sound = drums(rockOn(beatsAt(120, 0.3, 12)), 12);
    expect(Math.abs(analyseBeats(sound, RATE, { low: 62, high: 70 }).tempo / 60 - 1)).toBeLessThan(0.02);
    expect(Math.abs(analyseBeats(sound, RATE, { low: 190, high: 220 }).tempo / 180 - 1)).toBeLessThan(0.02);
  });

  it('are strictly increasing and within the sound for anything: noise, one click, a tone, silence, next to nothing', () => {
    const noise = noiseOf(3);
    const sounds = [
      Float32Array.from({ length: 5 * RATE }, noise),
      drums([{ time: 1, drum: 'snare' }], 4),
      Float32Array.from({ length: 4 * RATE }, (_, i) => Math.sin(i / 8)),
      new Float32Array(3 * RATE),
      new Float32Array(100),
      new Float32Array(0),
    ];
    for (const sound of sounds) {
      const { tempo, beats, onsets } = analyseBeats(sound, RATE);
      expect(tempo).toBeGreaterThan(0);
      expect(Number.isFinite(tempo)).toBe(true);
      expect(beats.every((b, i) => b >= 0 && b <= sound.length / RATE && (i === 0 || b > beats[i - 1]!))).toBe(true);
      expect(onsets.every((o) => Number.isFinite(o.time) && o.strength >= 0 && o.strength <= 1)).toBe(true);
    }
  });

  it('say how far they are, and stop when told to', () => {
    const told: number[] = [];
    analyseBeats(drums(rockOn(beatsAt(120, 0.2, 6)), 6), RATE, undefined, (share) => told.push(share));
    expect(told[0]).toBe(0);
    expect(told.at(-1)).toBe(1);
    expect(told.every((share, i) => i === 0 || share >= told[i - 1]!)).toBe(true);
    const stop = () => {
      throw new Error('enough');
    };
    expect(() => analyseBeats(new Float32Array(RATE), RATE, undefined, stop)).toThrow('enough');
  });
});

describe('onsets', () => {
  it('are found to a few milliseconds in their bands; what begins at once has one time', () => {
    const truth = beatsAt(96, 0.5, 16);
    const strikes = truth.flatMap((time, i): Strike[] => [
      { time, drum: i % 2 === 0 ? 'kick' : 'snare' },
      { time: time + 60 / 96 / 2, drum: 'hat' },
    ]);
    const found = heard(strikes, 16);
    const of = (drum: string) => strikes.filter((s) => s.drum === drum).map((s) => s.time);
    expect(
      met(
        of('kick'),
        onsetsOf(found, 'low').filter((t) => of('kick').some((k) => Math.abs(k - t) < 0.05)),
        0.02,
      ),
    ).toBe(1);
    expect(of('hat').every((t) => onsetsOf(found, 'high').some((o) => Math.abs(o - t) < 0.006))).toBe(true);
    const times = [...new Set(found.onsets.map((o) => o.time))];
    expect(
      met(
        strikes.map((s) => s.time).sort((a, b) => a - b),
        times,
        0.02,
      ),
    ).toBeGreaterThan(0.97);
  });
});

describe('how strong beats are', () => {
  it('kicks before hats, first beats of bars before others, nothing at all least', () => {
    const grid = { times: [1, 2, 3, 4, 5], bar: { beats: 4, first: 0 } };
    const onsets = [
      { time: 1.01, band: 'low', strength: 1 },
      { time: 2, band: 'low', strength: 1 },
      { time: 2.99, band: 'high', strength: 1 },
      { time: 4.2, band: 'low', strength: 1 },
    ] as const;
    const [first, kick, hat, none, bar] = beatStrengths(grid, onsets) as [number, number, number, number, number];
    expect(first).toBeGreaterThan(kick);
    expect(kick).toBeGreaterThan(hat);
    expect(hat).toBeGreaterThan(none);
    expect(bar).toBeGreaterThan(none);
  });
});
