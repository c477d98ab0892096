import fc from 'fast-check';
import { expect, test } from '@jest/globals';
import { type Content, SlotFiller } from './slot.js';

const LIMITS = { slowest: 0.2, fastest: 5 };

/** The same sum over one choice of beats, written out. */
function costOf(
  { first, last, slope, moments }: Content,
  chosen: readonly number[],
  beats: readonly number[],
  strengths: readonly number[],
  start: number,
  end: number,
) {
  const marks = [
    { frame: start, at: first },
    ...moments.flatMap((at, i) => (chosen[i]! < 0 ? [] : [{ frame: beats[chosen[i]!]!, at }])),
    { frame: end - 1, at: last },
  ];
  const whole = Math.abs(last - first) / (end - start - 1) / slope;
  let cost = Math.log(whole) ** 2;
  let before: number | undefined;
  for (let i = 1; i < marks.length; i++) {
    const frames = marks[i]!.frame - marks[i - 1]!.frame;
    const speed = Math.abs(marks[i]!.at - marks[i - 1]!.at) / frames / slope;
    if (frames <= 0 || !(speed >= LIMITS.slowest && speed <= LIMITS.fastest)) return Infinity;
    cost += (Math.log(speed / whole) ** 2 * frames) / (end - start);
    if (before !== undefined) cost += 0.35 * Math.log(speed / before) ** 2;
    before = speed;
  }
  for (const beat of chosen) if (beat >= 0) cost -= 0.6 * strengths[beat]!;
  return cost;
}

const slots = fc
  .record({
    gaps: fc.array(fc.integer({ min: 3, max: 30 }), { minLength: 2, maxLength: 9 }),
    strengths: fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 10, maxLength: 10 }),
    shares: fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { maxLength: 3 }),
    length: fc.integer({ min: 20, max: 600 }),
    back: fc.boolean(),
    slope: fc.constantFrom(1, 2.5, 5),
  })
  .map(({ gaps, strengths, shares, length, back, slope }) => {
    const beats = [0];
    for (const gap of gaps) beats.push(beats.at(-1)! + gap);
    const moments = shares.toSorted((a, b) => a - b).map((share) => (share / 100) * length);
    const content = back
      ? { first: length, last: 0, slope, moments: moments.map((at) => length - at) }
      : { first: 0, last: length, slope, moments };
    return { beats, strengths, content };
  });

test('moments are put on beats, in order, as cheaply as any choice of all', () => {
  let found = 0;
  fc.assert(
    fc.property(slots, ({ beats, strengths, content }) => {
      const [start, end] = [beats[0]!, beats.at(-1)!];
      let least = Infinity;
      const every = (chosen: readonly number[]) => {
        if (chosen.length === content.moments.length) {
          least = Math.min(least, costOf(content, chosen, beats, strengths, start, end));
          return;
        }
        for (let beat = -1; beat < beats.length; beat++)
          if (beat < 0 || (beats[beat]! - start >= 4 && end - beats[beat]! >= 4)) every([...chosen, beat]);
      };
      every([]);
      const filled = new SlotFiller({ beats, strengths }, LIMITS).fill(content, 0, beats.length - 1, start, end);
      if (least === Infinity) return expect(filled).toBeUndefined();
      found++;
      expect(filled!.cost).toBeCloseTo(least, 8);
      expect(costOf(content, filled!.beats, beats, strengths, start, end)).toBeCloseTo(least, 8);
    }),
    { numRuns: 300 },
  );
  expect(found).toBeGreaterThan(100);
});

test('one filler used for slots of any size answers as a new one does', () => {
  const beats = Array.from({ length: 131 }, (_, i) => 6 * i);
  const strengths = beats.map((_, i) => 0.5 + ((7 * i) % 10) / 20);
  const content = (moments: number) => ({
    ...{ first: 0, last: 1200, slope: 2.5 },
    moments: Array.from({ length: moments }, (_, i) => (1200 * (i + 1)) / (moments + 1)),
  });
  const used = new SlotFiller({ beats, strengths }, LIMITS);
  for (const [moments, to] of [
    [0, 8],
    [1, 4],
    [5, 64],
    [1, 16],
    [9, 64],
    [0, 64],
    [9, 130],
  ] as const) {
    const fresh = new SlotFiller({ beats, strengths }, LIMITS).fill(content(moments), 0, to, 0, beats[to]!);
    expect(used.fill(content(moments), 0, to, 0, beats[to]!)).toEqual(fresh);
    if (to < 64) continue;
    // Every moment is on a beat, the last one near the end, however large the tables have to be for that.
    expect(fresh!.beats.filter((beat) => beat >= 0)).toHaveLength(moments);
    expect(fresh!.beats.at(-1) ?? to).toBeGreaterThan(0.75 * to);
  }
});
