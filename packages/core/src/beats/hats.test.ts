import { describe, expect, it } from '@jest/globals';
import { analyseBeats } from './analyse.js';
import { withoutFalseHats } from './hats.js';
import { noveltyOf } from './novelty.js';
import { findOnsets } from './onsets.js';
import { beatsAt, drums, noiseOf, RATE, type Strike } from './test-drums.js';

/** Kicks as recorded ones are: with the click of the beater. */
function clicking(strikes: readonly Strike[], seconds: number): Float32Array {
  const out = drums(strikes, seconds);
  const noise = noiseOf(9);
  for (const { time } of strikes.filter(({ drum }) => drum === 'kick'))
    for (let i = 0; i < 0.02 * RATE; i++)
      out[Math.round(time * RATE) + i]! += 0.12 * noise() * Math.exp(-i / RATE / 0.003);
  return out;
}

const near = (times: readonly number[], time: number) => times.some((each) => Math.abs(each - time) < 0.03);

describe('hats', () => {
  const beats = beatsAt(122, 0.4, 16);
  const half = 60 / 122 / 2;
  const found = (strikes: readonly Strike[]) =>
    analyseBeats(clicking(strikes, 16), RATE)
      .onsets.filter(({ band }) => band === 'high')
      .map(({ time }) => time);

  it('are found between kicks, and the kicks are not among them', () => {
    const kicks = beats.map((time): Strike => ({ time, drum: 'kick' }));
    const hats = beats.map((time): Strike => ({ time: time + half, drum: 'hat' }));
    const times = found([...kicks, ...hats]);
    const ofHats = hats.map(({ time }) => time);
    expect(times.filter((time) => !near(ofHats, time))).toEqual([]);
    expect(ofHats.filter((time) => !near(times, time)).length).toBeLessThan(2);
  });

  it('are found on kicks, too, where they are played together', () => {
    const kicks = beats.map((time): Strike => ({ time, drum: 'kick' }));
    const hats = beats.flatMap((time): Strike[] => [
      { time, drum: 'hat' },
      { time: time + half, drum: 'hat' },
    ]);
    const times = found([...kicks, ...hats]);
    expect(hats.filter(({ time }) => !near(times, time)).length / hats.length).toBeLessThan(0.1);
  });

  it('are found where soft ones lie between loud ones', () => {
    const kicks = beats.map((time): Strike => ({ time, drum: 'kick' }));
    const loud = beats.map((time): Strike => ({ time: time + half, drum: 'hat' }));
    const soft = beats.flatMap((time) =>
      [0.5, 1.5].map((at): Strike => ({ time: time + at * half, drum: 'hat', loud: 0.4 })),
    );
    const times = found([...kicks, ...loud, ...soft]);
    const lost = [...loud, ...soft].filter(({ time }) => !near(times, time));
    expect(lost.length / (loud.length + soft.length)).toBeLessThan(0.15);
  });

  it('are told from soft tones as high between them, and those are still among what begins', () => {
    const samples = clicking(
      beats.flatMap((time): Strike[] => [
        { time, drum: 'kick' },
        { time: time + half, drum: 'hat' },
      ]),
      16,
    );
    const tones = beats.map((time) => time + half / 2);
    for (const time of tones)
      for (let i = 0; i < 0.2 * RATE; i++)
        samples[Math.round(time * RATE) + i]! +=
          0.02 * Math.sin((2 * Math.PI * 6000 * i) / RATE) * Math.exp(-i / RATE / 0.1);
    const all = findOnsets(noveltyOf(samples, RATE));
    const told = withoutFalseHats(all, samples, RATE);
    const near6k = (onsets: typeof all, band: string) =>
      onsets.filter((onset) => onset.band === band && near(tones, onset.time)).length;
    expect(near6k(all, 'high')).toBeGreaterThan(0.9 * tones.length);
    expect(near6k(told, 'high')).toBeLessThan(0.1 * tones.length);
    expect(near6k(told, 'mid')).toBeGreaterThan(0.8 * tones.length);
  });

  it('are none where only kicks and a bass are played', () => {
    expect(found(beats.map((time): Strike => ({ time, drum: 'kick' })))).toEqual([]);
  });
});
