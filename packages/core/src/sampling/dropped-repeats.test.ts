import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import {
  frameOfPosition,
  placeOfFrame,
  positionOfFrame,
  type RepeatedSource,
  samplerWithoutRepeats,
  usableFrames,
} from './dropped-repeats.js';
import { type Sample, sampleAt } from './sample.js';

const skippingArbitrary: fc.Arbitrary<RepeatedSource> = fc
  .tuple(fc.integer({ min: 2, max: 120 }), fc.constantFrom('keep' as const, 'close' as const), fc.array(fc.nat(200)))
  .map(([frames, mode, picks]) => ({
    frames,
    droppedRepeats: { mode, repeats: [...new Set(picks.map((n) => 1 + (n % (frames - 1))))].sort((a, b) => a - b) },
  }));

const twos = (mode: 'keep' | 'close'): RepeatedSource => ({
  frames: 8,
  droppedRepeats: { mode, repeats: [1, 3, 5, 7] },
});

const mixed = (source: RepeatedSource) => samplerWithoutRepeats(source, (p, n) => sampleAt(p, n, 'mix', 'hold'));

const stepped = (source: RepeatedSource) => samplerWithoutRepeats(source, (p, n) => sampleAt(p, n, 'step', 'hold'));

describe('skipping repeats', () => {
  test('animation on twos: keeping time, motion goes on between drawings; closed up, drawings follow one another', () => {
    const at = (source: RepeatedSource, sampler: (s: RepeatedSource) => (p: number) => Sample, ...p: number[]) =>
      p.map(sampler(source));
    expect(at(twos('keep'), mixed, 0, 1, 2, 2.5)).toEqual([
      { kind: 'source', frame: 0 },
      { kind: 'mix', a: 0, b: 2, fraction: 0.5 },
      { kind: 'source', frame: 2 },
      { kind: 'mix', a: 2, b: 4, fraction: 0.25 },
    ]);
    expect(at(twos('keep'), stepped, 0, 1, 2, 3, 7)).toEqual(
      [0, 0, 2, 2, 6].map((frame) => ({ kind: 'source', frame })),
    );
    expect(at(twos('close'), stepped, 0, 1, 2, 3)).toEqual([0, 2, 4, 6].map((frame) => ({ kind: 'source', frame })));
    expect(usableFrames(twos('close'))).toBe(4);
    expect(usableFrames(twos('keep'))).toBe(8);
  });

  test('Flow goes from drawing to drawing, and looks at the drawings next to them', () => {
    const flowed = samplerWithoutRepeats(twos('keep'), (p, n) => sampleAt(p, n, 'flow', 'hold'));
    expect(flowed(3)).toEqual({ kind: 'flow', a: 2, b: 4, fraction: 0.5, before: 0, after: 6 });
    expect(flowed(1)).toEqual({ kind: 'flow', a: 0, b: 2, fraction: 0.5, before: undefined, after: 4 });
  });

  test('no sample names a repeat, and every frame that is none shows itself', () => {
    fc.assert(
      fc.property(skippingArbitrary, fc.double({ min: -3, max: 130, noNaN: true }), (source, p) => {
        const repeats = new Set(source.droppedRepeats!.repeats);
        const sample = mixed(source)(p);
        const used = sample.kind === 'mix' ? [sample.a, sample.b] : sample.kind === 'source' ? [sample.frame] : [];
        for (const n of used) expect(repeats.has(n) || n < 0 || n >= source.frames).toBe(false);
        for (let n = 0; n < source.frames; n++)
          if (!repeats.has(n)) expect(mixed(source)(positionOfFrame(source, n))).toEqual({ kind: 'source', frame: n });
      }),
    );
  });

  test('native frames and closed-up positions are each other’s inverse', () => {
    fc.assert(
      fc.property(skippingArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (source, u) => {
        const p = u * usableFrames(source);
        expect(placeOfFrame(source, frameOfPosition(source, p))).toBeCloseTo(p, 9);
        const n = Math.floor(u * (source.frames - 1));
        expect(Math.abs(positionOfFrame(source, n) - Math.floor(positionOfFrame(source, n)))).toBe(0);
      }),
    );
  });
});
