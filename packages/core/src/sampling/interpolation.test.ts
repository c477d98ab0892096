import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { DEFAULT_TUNING, type Mend, type Method } from '../model/interpolation.js';
import {
  type InterpolationSettings,
  mendShare,
  plainInterpolation,
  sampleInterpolated,
  usesFlow,
} from './interpolation.js';
import { parseSample } from './sample-file.js';
import { sampleAt } from './sample.js';

const source = { frames: 100, droppedRepeats: null };

const making = (change: Partial<InterpolationSettings>): InterpolationSettings => ({
  ...plainInterpolation('flow'),
  ...change,
});

const mend = (change: Partial<Mend>): Mend => ({ id: 'm', from: 40, to: 44, way: 'mix', soft: 1, ...change });

const at = (made: InterpolationSettings, position: number, k = 0) =>
  sampleInterpolated(source, made, 'hold', position, k);

const positions = fc.double({ min: 0, max: 99, noNaN: true });

describe('how a clip’s frames are made', () => {
  test('one method throughout is that method', () => {
    fc.assert(
      fc.property(positions, fc.constantFrom<Method>('step', 'mix', 'flow'), (position, method) => {
        expect(at(plainInterpolation(method), position)).toEqual(sampleAt(position, 100, method, 'hold'));
      }),
    );
  });

  test('a stretch of its time has a method of its own', () => {
    const made = making({ stretches: [{ from: 10, to: 20, method: 'step' }] });
    expect([9, 10, 19, 20].map((k) => at(made, 5.5, k).kind)).toEqual(['flow', 'source', 'source', 'flow']);
  });

  test('Flow is needed wherever anything asks for it', () => {
    expect(usesFlow(plainInterpolation('mix'))).toBe(false);
    expect(usesFlow({ ...plainInterpolation('mix'), stretches: [{ from: 0, to: 1, method: 'flow' }] })).toBe(true);
  });

  test('the tuning travels with what Flow makes, and only where it is not even', () => {
    const tuning = { trust: 0.4, keenness: -0.5 };
    expect(at(making({ tuning }), 5.5)).toMatchObject({ kind: 'flow', tuning });
    expect(at(making({ tuning }), 5)).toEqual({ kind: 'source', frame: 5 });
    expect(at(making({ tuning: DEFAULT_TUNING }), 5.5)).not.toHaveProperty('tuning');
  });
});

describe('a moment at which things hit or turn', () => {
  test('is a knot of the two pairs beside it, and of no other; elsewhere nothing changes', () => {
    fc.assert(
      fc.property(positions, fc.integer({ min: 0, max: 99 }), (position, knot) => {
        const sample = at(making({ knots: [knot] }), position);
        const plain = at(making({}), position);
        const beside = plain.kind === 'flow' && Math.abs(position - knot) < 1;
        expect(sample).toEqual(beside ? { ...plain, knot: true } : plain);
        expect(parseSample(JSON.parse(JSON.stringify(sample)))).toEqual(sample);
      }),
    );
  });

  test('is known by its native frame where repeats are left out', () => {
    const repeated = { frames: 100, droppedRepeats: { mode: 'close' as const, repeats: [3, 5, 7] } };
    // Of 0 1 2 4 6 8 the fourth and the fifth.
    const sample = (knot: number) => sampleInterpolated(repeated, making({ knots: [knot] }), 'hold', 3.5, 0);
    expect(sample(4)).toMatchObject({ a: 4, b: 6, knot: true });
    expect(sample(3)).not.toHaveProperty('knot');
  });
});

describe('a mended stretch', () => {
  test('is made the other way inside, as the clip outside of its hand-over', () => {
    fc.assert(
      fc.property(positions, fc.double({ min: 0, max: 5, noNaN: true }), (position, soft) => {
        const sample = at(making({ mends: [mend({ soft })] }), position);
        const plain = at(making({}), position);
        if (position <= 40 - soft || position >= 44 + soft) expect(sample).toEqual(plain);
        else if (position > 40 && position < 44) expect(sample).toEqual(sampleAt(position, 100, 'mix', 'hold'));
        else if (sample.kind === 'fade')
          expect(sample).toMatchObject({ from: plain, to: sampleAt(position, 100, 'mix', 'hold') });
      }),
    );
  });

  test('is handed over without a step: shares of neighbouring positions are neighbours', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 38, max: 40, noNaN: true }),
        fc.double({ min: 1e-4, max: 1e-2, noNaN: true }),
        (frame, step) => {
          const [a, b] = [mendShare(mend({ soft: 2 }), frame), mendShare(mend({ soft: 2 }), frame - step)];
          expect(Math.abs(a - b)).toBeLessThanOrEqual(step / 2 + 1e-9);
        },
      ),
    );
  });

  test('real frames stay real', () => {
    const made = making({ mends: [mend({})] });
    for (const frame of [39, 40, 42, 44, 45]) expect(at(made, frame)).toEqual({ kind: 'source', frame });
  });

  test('frozen, it holds its first frame and goes softly on to its last, both real', () => {
    const made = making({ mends: [mend({ way: 'hold', soft: 1 })] });
    expect(at(made, 39.5)).toEqual(at(making({}), 39.5));
    for (const position of [40.2, 41, 42.9, 43]) expect(at(made, position)).toEqual({ kind: 'source', frame: 40 });
    expect(at(made, 43.75)).toMatchObject({
      kind: 'fade',
      share: 0.25,
      from: { kind: 'source', frame: 44 },
      to: { kind: 'source', frame: 40 },
    });
    expect(at(made, 44)).toEqual({ kind: 'source', frame: 44 });
  });

  test('does not reach past the end of the source, where black stays black', () => {
    const made = making({ mends: [mend({ from: 95, to: 99, soft: 3 })] });
    expect(sampleInterpolated(source, made, 'black', 100.5, 0)).toEqual({ kind: 'black' });
    expect(sampleInterpolated(source, made, 'hold', 98.5, 0)).toMatchObject({ kind: 'mix', a: 98, b: 99 });
  });

  test('counts native frames, whatever repeats are left out', () => {
    const droppedRepeats = { mode: 'close' as const, repeats: [10, 20, 30] };
    const made = making({ mends: [mend({ soft: 0 })] });
    // With three repeats closed up, place 38.5 lies between native frames 41 and 42.
    expect(sampleInterpolated({ frames: 100, droppedRepeats }, made, 'hold', 38.5, 0)).toMatchObject({
      kind: 'mix',
      a: 41,
      b: 42,
    });
    expect(sampleInterpolated({ frames: 100, droppedRepeats }, made, 'hold', 41.5, 0)).toMatchObject({
      kind: 'flow',
      a: 44,
      b: 45,
    });
  });
});

describe('a sample as JSON', () => {
  test('comes back as it was', () => {
    const mends = [mend({}), mend({ id: 'n', from: 60, to: 70, way: 'hold', soft: 3 })];
    fc.assert(
      fc.property(
        positions,
        fc.constantFrom<Method>('step', 'mix', 'flow'),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (position, method, trust) => {
          const sample = at({ ...plainInterpolation(method), tuning: { trust, keenness: 0 }, mends }, position);
          const plain = JSON.parse(JSON.stringify(sample)) as unknown;
          expect(JSON.parse(JSON.stringify(parseSample(plain)))).toEqual(plain);
        },
      ),
    );
  });

  test.each<[string, unknown, RegExp]>([
    ['a kind nobody knows', { kind: 'melt' }, /sample\.kind: must be one of/],
    ['no frame', { kind: 'source' }, /sample\.frame: must be a finite number/],
    ['a frame before the first', { kind: 'source', frame: -1 }, /sample\.frame: must be a whole number/],
    ['a fraction beyond 1', { kind: 'mix', a: 1, b: 2, fraction: 7 }, /sample\.fraction: must lie in 0 to 1/],
    ['a field too many', { kind: 'mix', a: 1, b: 2, fraction: 0.5, c: 1 }, /has a field "c"/],
    [
      'a tuning out of its limits',
      { kind: 'flow', a: 1, b: 2, fraction: 0.5, tuning: { trust: 2, keenness: 0 } },
      /tuning\.trust: must lie in 0 to 1/,
    ],
    [
      'a fade of a fade',
      { kind: 'fade', from: { kind: 'fade' }, to: { kind: 'black' }, share: 0.5 },
      /sample\.from\.kind/,
    ],
  ])('%s is refused by name', (_, value, message) => {
    expect(() => parseSample(value)).toThrow(message);
  });

  test('black needs nothing', () => {
    expect(parseSample({ kind: 'black' })).toEqual({ kind: 'black' });
  });
});
