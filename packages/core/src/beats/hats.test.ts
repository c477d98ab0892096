import { describe, expect, it } from '@jest/globals';
import { analyseBeats } from './analyse.js';
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

  it('are none where only kicks and a bass are played', () => {
    expect(found(beats.map((time): Strike => ({ time, drum: 'kick' })))).toEqual([]);
  });
});
