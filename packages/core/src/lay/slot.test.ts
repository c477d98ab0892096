import fc from 'fast-check';
import { expect, test } from '@jest/globals';
import { type Content, SlotFiller } from './slot.js';

const LIMITS = { slowest: 0.2, fastest: 5 };

/** The same sum over one choice of beats, written out. */
function costOf(
  { frames, before, after, speed, bent, moments }: Content,
  chosen: readonly number[],
  beats: readonly number[],
  strengths: readonly number[],
  start: number,
  end: number,
) {
  const marks = [
    { frame: start, at: 0, spare: before, open: true },
    ...moments.flatMap((at, i) => (chosen[i]! < 0 ? [] : [{ frame: beats[chosen[i]!]!, at, spare: 0, open: false }])),
    { frame: end - 1, at: frames - 1, spare: after, open: true },
  ];
  let cost = Math.log((end - start) / frames) ** 2;
  let last: number | undefined;
  for (let i = 1; i < marks.length; i++) {
    const [a, b] = [marks[i - 1]!, marks[i]!];
    const run = b.frame - a.frame;
    if (run <= 0) return Infinity;
    const own = b.at - a.at;
    const room = own + (i === 1 ? a.spare : 0) + (i === marks.length - 1 ? b.spare : 0);
    const open = (i === 1 && a.open) || (i === marks.length - 1 && b.open);
    // What there is of it to show: as much as the slot has where an end is open, else what it is.
    const shown = open ? Math.min(run, room) : own;
    const log = Math.abs(shown - run) < 1e-6 ? 0 : Math.log(shown / run);
    if (log !== 0 && !(speed * (shown / run) >= LIMITS.slowest && speed * (shown / run) <= LIMITS.fastest))
      return Infinity;
    cost += log === 0 ? 0 : (bent ? 0.08 : 0.25) + (log ** 2 * run) / (end - start);
    cost += (0.4 * Math.max(0, shown - own)) / (end - start);
    if (last !== undefined) cost += 0.35 * (log - last) ** 2;
    last = log;
  }
  for (const beat of chosen) if (beat >= 0) cost -= 0.6 * strengths[beat]!;
  return cost;
}

const side = fc.oneof(fc.constant(0), fc.integer({ min: 0, max: 60 }), fc.constant(Infinity));

const slots = fc
  .record({
    gaps: fc.array(fc.integer({ min: 3, max: 30 }), { minLength: 2, maxLength: 9 }),
    strengths: fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 10, maxLength: 10 }),
    shares: fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { maxLength: 3 }),
    frames: fc.integer({ min: 8, max: 200 }),
    before: side,
    after: side,
    racesIn: fc.constantFrom(0, 16),
    racesOut: fc.constantFrom(0, 16),
    bent: fc.boolean(),
    speed: fc.constantFrom(1, 0.4, 2),
  })
  .map(({ gaps, strengths, shares, ...content }) => {
    const beats = [0];
    for (const gap of gaps) beats.push(beats.at(-1)! + gap);
    const moments = shares.toSorted((a, b) => a - b).map((share) => (share / 100) * (content.frames - 1));
    return { beats, strengths, content: { ...content, moments } };
  });

test('moments are put on beats, in order, as cheaply as any choice of all', () => {
  let [found, kept] = [0, 0];
  fc.assert(
    fc.property(slots, ({ beats, strengths, content }) => {
      const [start, end] = [beats[0]!, beats.at(-1)!];
      let least = Infinity;
      const isClear = (beat: number) =>
        beat - start >= Math.max(4, content.racesIn) && end - beat >= Math.max(4, content.racesOut);
      const every = (chosen: readonly number[]) => {
        if (chosen.length === content.moments.length) {
          least = Math.min(least, costOf(content, chosen, beats, strengths, start, end));
          return;
        }
        for (let beat = -1; beat < beats.length; beat++)
          if (beat < 0 || isClear(beats[beat]!)) every([...chosen, beat]);
      };
      every([]);
      const filled = new SlotFiller({ beats, strengths }, LIMITS).fill(content, 0, beats.length - 1, start, end);
      if (least === Infinity) return expect(filled).toBeUndefined();
      found++;
      expect(filled!.cost).toBeCloseTo(least, 8);
      expect(costOf(content, filled!.beats, beats, strengths, start, end)).toBeCloseTo(least, 8);
      // What it says it covers is in the source there is, and is what the landings leave of it.
      const { frames, before, after, moments } = content;
      const [from, to] = filled!.covers;
      expect(from).toBeGreaterThanOrEqual(-before);
      expect(to).toBeLessThanOrEqual(frames - 1 + after);
      if (filled!.keeps) {
        kept++;
        expect(to - from).toBeCloseTo(end - start - 1, 6);
        moments.forEach((at, i) => {
          const beat = filled!.beats[i]!;
          if (beat >= 0) expect(at - from).toBeCloseTo(beats[beat]! - start, 6);
        });
      }
    }),
    { numRuns: 300 },
  );
  expect(found).toBeGreaterThan(100);
  expect(kept).toBeGreaterThan(30);
});

test('one filler used for slots of any size answers as a new one does', () => {
  const beats = Array.from({ length: 131 }, (_, i) => 6 * i);
  const strengths = beats.map((_, i) => 0.5 + ((7 * i) % 10) / 20);
  const content = (moments: number) => ({
    ...{ frames: 480, before: 0, after: 0, racesIn: 0, racesOut: 0, speed: 1, bent: false },
    moments: Array.from({ length: moments }, (_, i) => (480 * (i + 1)) / (moments + 1)),
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
