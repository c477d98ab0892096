import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mayRepeat } from './repeats.js';

const index = (sizes: readonly number[], keys = [0]) => ({
  sizes: Float64Array.from(sizes),
  keys: Int32Array.from(keys),
});
const all = (sizes: readonly number[]) => index(sizes, [...sizes.keys()]);

describe('whether a file may hold repeats, by its packets', () => {
  test('a packet that costs next to nothing among others', () => {
    expect(mayRepeat(index([9000, 1000, 1100, 40, 950, 1020]))).toBe(true);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 800, max: 1200 }), { minLength: 3, maxLength: 60 }), (sizes) =>
        expect(mayRepeat(index(sizes))).toBe(false),
      ),
    );
  });

  test('where every frame stands for itself, two of the same size to the byte', () => {
    expect(mayRepeat(all([5000, 5001, 5001, 4999]))).toBe(true);
    expect(mayRepeat(all([5000, 5001, 5002, 5001]))).toBe(false);
  });

  test('a file whose packets say nothing has to be looked at', () => {
    expect(mayRepeat({ sizes: undefined, keys: Int32Array.of(0) })).toBe(true);
  });
});
