import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { upperBound } from './upper-bound.js';

test('as many entries of a rising list are at most a value as one by one are counted', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -20, max: 20 })), fc.integer({ min: -25, max: 25 }), (numbers, value) => {
      const list = numbers.sort((a, b) => a - b);
      expect(upperBound(list, value)).toBe(list.filter((each) => each <= value).length);
    }),
  );
});
