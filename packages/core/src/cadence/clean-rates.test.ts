import { expect, test } from '@jest/globals';
import { rate, speakRate } from '../time/rate.js';
import { cleanRates } from './clean-rates.js';
import { cleanSlope, cleanSlopesNear } from './clean-slope.js';

test.each([
  [rate(60000, 1001), rate(24), '60', '23.976'],
  [rate(30000, 1001), rate(24), '30', '23.976'],
  [rate(24000, 1001), rate(25), '25', '23.976'],
  [rate(120000, 1001), rate(30), '120', '29.97'],
])('what makes %j clean on %j', (source, timeline, readAs, reel) => {
  const found = cleanRates(source, timeline)!;
  expect([speakRate(found.readAs), speakRate(found.timeline)]).toEqual([readAs, reel]);
});

test.each([
  [rate(60), rate(24)],
  [rate(60000, 1001), rate(24000, 1001)],
  [rate(25), rate(50)],
])('%j on %j is clean as it is', (source, timeline) => expect(cleanRates(source, timeline)).toBeUndefined());

test('a slope is a fraction of few parts, or none', () => {
  expect([5, 0.2, 2.5, -1 / 3, 0].map(cleanSlope)).toEqual([
    { p: 5, q: 1 },
    { p: 1, q: 5 },
    { p: 5, q: 2 },
    { p: -1, q: 3 },
    { p: 0, q: 1 },
  ]);
  expect([2500 / 1001, 0.97, 1 / 9].map(cleanSlope)).toEqual([undefined, undefined, undefined]);
});

test('neighbouring clean slopes: those with most real frames first, none beyond the ratio, direction kept', () => {
  expect(cleanSlopesNear(2, 1.5).slice(0, 4)).toEqual([3, 2.5, 1.5, 7 / 3]);
  expect(cleanSlopesNear(-1, 1.5).every((slope) => slope < 0 && slope >= -1.5 && slope <= -1 / 1.5)).toBe(true);
});
