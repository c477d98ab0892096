import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { calmerFrame, unrest } from './calm.js';
import { motionStretches, turn } from './directions.js';
import type { CameraMotion, SourceMotion } from './source-motion.js';

const still: CameraMotion = { x: 0, y: 0, push: 0, roll: 0, sure: 0.9 };

const motionOf = (cameras: readonly Partial<CameraMotion>[], exposures: readonly number[] = []): SourceMotion => ({
  pairs: cameras.map((camera, n) => ({ confidence: 1, exposure: exposures[n] ?? 0, camera: { ...still, ...camera } })),
  across: new Map(),
});

const times = <T>(n: number, value: T) => Array.from({ length: n }, () => value);

describe('stretches of motion', () => {
  test('a pan, a rest, a push and a roll, one after another', () => {
    const found = motionStretches(
      motionOf([...times(20, { x: 0.02 }), ...times(12, {}), ...times(15, { push: 0.02 }), ...times(10, { roll: -1 })]),
    );
    expect(found.map(({ kind }) => kind)).toEqual(['shift', 'still', 'push', 'roll']);
    expect(found[0]).toMatchObject({ from: 0, to: 20, degrees: 0 });
    expect(found[0]!.perFrame).toBeCloseTo(0.02, 6);
    expect(found.at(-1)).toMatchObject({ to: 57 });
  });

  test('any steady shift is one stretch of its direction, with jitter too', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 360, noNaN: true }),
        fc.array(fc.double({ min: -0.001, max: 0.001, noNaN: true }), { minLength: 30, maxLength: 30 }),
        (degrees, jitter) => {
          const angle = (degrees * Math.PI) / 180;
          const found = motionStretches(
            motionOf(jitter.map((j) => ({ x: 0.01 * Math.cos(angle) + j, y: 0.01 * Math.sin(angle) - j }))),
          );
          expect(found).toHaveLength(1);
          expect(turn(found[0]!.degrees!, degrees)).toBeLessThan(10);
        },
      ),
    );
  });

  test('turning round is two stretches', () => {
    const found = motionStretches(motionOf([...times(10, { x: 0.01 }), ...times(10, { x: -0.01 })]));
    expect(found.map(({ degrees }) => Math.round(degrees!))).toEqual([0, 180]);
  });

  test('a frame or two of something else belong to what is around them', () => {
    const cameras = times<Partial<CameraMotion>>(30, { y: 0.01 });
    cameras[12] = { x: -0.05 };
    expect(motionStretches(motionOf(cameras))).toHaveLength(1);
  });

  test('where little moves together nothing is claimed; a cut parts two stretches', () => {
    expect(motionStretches(motionOf(times(9, { x: 0.05, sure: 0.1 })))[0]!.kind).toBe('unclear');
    const exposures = times(20, 0);
    exposures[10] = NaN;
    expect(motionStretches(motionOf(times(20, { x: 0.01 }), exposures))).toHaveLength(2);
    expect(motionStretches(motionOf([]))).toEqual([]);
  });
});

describe('where a slow part begins and ends well', () => {
  test('at rest, beside a swing', () => {
    const motion = motionOf([...times(10, { x: 0.03 }), ...times(10, {}), ...times(10, { x: 0.03 })]);
    const calm = calmerFrame(motion, 7, 12)!;
    expect(calm).toBeGreaterThan(10);
    expect(unrest(motion, calm)).toBeLessThan(unrest(motion, 7));
  });

  test('not in a flash', () => {
    const exposures = times(20, 0);
    exposures[9] = 0.6;
    expect(Math.abs(calmerFrame(motionOf(times(20, {}), exposures), 10, 5)! - 10)).toBeGreaterThan(0);
  });

  test('nowhere else, when it is calm already or equally wild', () => {
    expect(calmerFrame(motionOf(times(20, {})), 10, 8)).toBeUndefined();
    expect(calmerFrame(motionOf(times(20, { x: 0.03 })), 10, 8)).toBeUndefined();
  });
});
