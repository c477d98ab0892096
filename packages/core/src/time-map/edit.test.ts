import { easeArbitrary, mapArbitrary } from '../../test/arbitraries.js';
import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { InvalidInput } from '../foundation/errors.js';
import { easeCurve } from './ease.js';
import {
  fitDuration,
  mirrorEase,
  moveVertex,
  removeVertex,
  reverseMap,
  setBend,
  setClipSpeed,
  setReachSpeed,
  slideVertex,
  type Keep,
} from './edit.js';
import { positionAt, speedAt } from './evaluate.js';
import { freezeAt } from './freeze.js';
import { formatMapFile, parseMapFile } from './map-file.js';
import {
  bendWindow,
  checkTimeMap,
  HARD,
  mapDuration,
  mapFrameCount,
  reachSlope,
  straightMap,
  type TimeMap,
} from './time-map.js';

const K0 = 5;

const speedArbitrary = fc.oneof(
  fc.double({ min: 0.01, max: 20, noNaN: true }),
  fc.double({ min: -20, max: -0.01, noNaN: true }),
  fc.constant(0),
);

describe('speed of a reach', () => {
  test('keep content: source ranges stay, what follows slides with its speed', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(), fc.double({ min: 0.01, max: 2, noNaN: true }), (map, pick, speed) => {
        const reach = pick % (map.vertices.length - 1);
        const was = reachSlope(map, reach);
        fc.pre(was > 0.2);
        const changed = setReachSpeed(map, reach, speed, K0, 'content');
        expect(reachSlope(changed, reach) / K0).toBeCloseTo(speed, 6);
        changed.vertices.forEach((v, i) => expect(Math.abs(v.s - map.vertices[i]!.s)).toBeLessThan(1e-6));
        for (let i = reach + 1; i < map.vertices.length - 1; i++)
          expect(reachSlope(changed, i)).toBeCloseTo(reachSlope(map, i), 5);
      }),
    );
  });

  test('keep slot: every timeline position stays, every other speed stays', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(), speedArbitrary, (map, pick, speed) => {
        const reach = pick % (map.vertices.length - 1);
        const changed = setReachSpeed(map, reach, speed, K0, 'slot');
        changed.vertices.forEach((v, i) => expect(v.t).toBeCloseTo(map.vertices[i]!.t, 9));
        expect(reachSlope(changed, reach) / K0).toBeCloseTo(speed, 6);
      }),
    );
  });

  test('limits are named', () => {
    expect(() => setReachSpeed(straightMap(10, 0, 50), 0, 101, K0, 'slot')).toThrow(/10,000/);
    expect(() => setReachSpeed(straightMap(10, 0, 50), 3, 1, K0, 'slot')).toThrow(/no reach 3/);
  });
});

describe('whole clip', () => {
  test('fitting keeps the source range and scales everything in time', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.double({ min: 6, max: 4000, noNaN: true }), (map, duration) => {
        const fitted = fitDuration(map, duration);
        expect(mapDuration(fitted)).toBe(duration);
        const factor = mapDuration(map) / duration;
        for (const u of [0, 0.21, 0.5, 0.83])
          expect(positionAt(fitted, u * duration)).toBeCloseTo(positionAt(map, u * duration * factor), 4);
      }),
    );
  });

  test('a clip set to 40 % lasts two and a half times as long', () => {
    const map = setClipSpeed(straightMap(72, 0, 360), 0.4, K0);
    expect(mapDuration(map)).toBeCloseTo(180, 9);
    expect(speedAt(map, 10, K0)).toBeCloseTo(0.4, 12);
    expect(speedAt(setClipSpeed(map, -1, K0), 10, K0)).toBeCloseTo(-1, 9);
  });

  test('reversed, frame k shows what frame N−1−k showed; where its bends end before its last frame', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const count = mapFrameCount(map);
        fc.pre(
          count > 2 &&
            map.vertices.every(
              (_, i) =>
                i === 0 ||
                i === map.vertices.length - 1 ||
                (bendWindow(map, i).to < count - 1 && map.vertices[i]!.t < count - 1.1),
            ),
        );
        let reversed: TimeMap;
        try {
          reversed = reverseMap(map);
        } catch (error) {
          return expect(error).toBeInstanceOf(InvalidInput);
        }
        expect(mapFrameCount(reversed)).toBe(count);
        const size = Math.max(1, ...map.vertices.map((v) => Math.abs(v.s)));
        for (let k = 0; k < count; k++)
          expect(Math.abs(positionAt(reversed, k) - positionAt(map, count - 1 - k))).toBeLessThan(1e-6 * size);
      }),
      { numRuns: 400 },
    );
  });

  test('a mirrored ease is the ease seen backwards', () => {
    fc.assert(
      fc.property(easeArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (ease, u) => {
        expect(easeCurve(mirrorEase(ease)).value(u)).toBeCloseTo(1 - easeCurve(ease).value(1 - u), 3);
      }),
    );
  });
});

describe('freeze', () => {
  test('holds one whole frame for exactly n frames, bends outside, and every speed after it stays', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 10, max: 60 }),
        fc.integer({ min: 1, max: 40 }),
        fc.double({ min: 0, max: 12, noNaN: true }),
        easeArbitrary,
        fc.constantFrom(1, 2.5, 3.7, -2.3),
        (t, n, widthFrames, ease, slope) => {
          const start = 400;
          const map = straightMap(72, start, start + 72 * slope);
          const frozen = freezeAt(map, t, n, { widthFrames, ease });
          const source = Math.round(positionAt(map, t));
          const shown = Array.from({ length: mapFrameCount(frozen.map) }, (_, k) => positionAt(frozen.map, k));
          const still = shown.filter((s) => Math.abs(s - source) <= 1e-6).length;
          // An overshooting ease may cross the frame again inside its bend; the built-in ones never do.
          if (typeof ease === 'string') expect(still).toBeGreaterThanOrEqual(n);
          if (typeof ease === 'string' && widthFrames === 0) expect(still).toBe(n);
          const last = frozen.map.vertices.length - 2;
          expect(reachSlope(frozen.map, last)).toBeCloseTo(slope, 6);
          expect(reachSlope(frozen.map, frozen.reach)).toBe(0);
        },
      ),
      { numRuns: 400 },
    );
  });

  test('a freeze with bends leaves no stray frame: n still frames, and motion on both sides', () => {
    const { map } = freezeAt(straightMap(72, 0, 360), 30, 12, { widthFrames: 10, ease: 'soft' });
    const shown = Array.from({ length: mapFrameCount(map) }, (_, k) => positionAt(map, k));
    const still = shown.flatMap((s, k) => (Math.abs(s - 150) <= 1e-6 ? [k] : []));
    expect(still).toHaveLength(12);
    expect(still.at(-1)! - still[0]!).toBe(11);
    expect(shown[still[0]! - 1]).toBeLessThan(150 - 1e-3);
    expect(shown[still.at(-1)! + 1]).toBeGreaterThan(150 + 1e-3);
  });
});

describe('a freeze under Step', () => {
  test('shows its frame for as many frames as were typed, slow motion on either side counted', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 12 }),
        fc.boolean(),
        fc.integer({ min: 8, max: 30 }),
        fc.integer({ min: 0, max: 60 }),
        (tenths, backwards, n, t) => {
          // No slower than a tenth: a frame shows for ten frames at most.
          const length = 80 * (tenths / 10);
          const map = backwards ? straightMap(80, 100, 100 - length) : straightMap(80, 10, 10 + length);
          fc.pre(Math.ceil(10 / tenths) <= n);
          const frozen = freezeAt(map, t, n, { widthFrames: 0, ease: 'soft' }, true);
          const source = frozen.map.vertices[frozen.reach]!.s;
          const shown = Array.from({ length: Math.round(mapDuration(frozen.map)) }, (_, k) =>
            Math.floor(positionAt(frozen.map, k) + 1e-6),
          );
          expect(shown.filter((s) => s === source)).toHaveLength(n);
        },
      ),
    );
  });
});

describe('where a freeze may sit', () => {
  const shownBy = (map: TimeMap) => Array.from({ length: mapFrameCount(map) }, (_, k) => positionAt(map, k));

  test('at the very start: the first frame n times, and no sliver of a reach before it', () => {
    const { map, reach } = freezeAt(straightMap(20, 7, 47), 0, 5);
    expect(reach).toBe(0);
    expect(map.vertices[0]).toEqual({ t: 0, s: 7 });
    expect(shownBy(map).slice(0, 7)).toEqual([7, 7, 7, 7, 7, 9, 11]);
  });

  test('at a hard change: between its two speeds, both kept', () => {
    const corner: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 10, s: 20 },
        { t: 20, s: 30 },
      ],
      bends: [HARD, HARD, HARD],
    };
    const { map } = freezeAt(corner, 10, 4, { widthFrames: 4, ease: 'soft' });
    expect(reachSlope(map, 0)).toBe(2);
    expect(reachSlope(map, 1)).toBe(0);
    expect(reachSlope(map, 2)).toBe(1);
    expect(shownBy(map).filter((s) => Math.abs(s - 20) < 1e-6)).toHaveLength(4);
  });

  test('near the end it takes a frame the clip still shows, and moves no speed', () => {
    const { map } = freezeAt(straightMap(10, 0, 13), 9, 3);
    expect(reachSlope(map, 0)).toBeCloseTo(1.3, 12);
    expect(shownBy(map).filter((s) => Math.abs(s - 12) < 1e-6).length).toBeGreaterThanOrEqual(1);
  });

  test('inside a bend, on a freeze, and outside the clip it is refused in words', () => {
    const bent: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 10, s: 20 },
        { t: 20, s: 20 },
      ],
      bends: [HARD, { widthFrames: 6, ease: 'soft' }, HARD],
    };
    expect(() => freezeAt(bent, 11, 4)).toThrow(/inside a bend/);
    expect(() => freezeAt(bent, 15, 4)).toThrow(/already still/);
    expect(() => freezeAt(bent, 25, 4)).toThrow(/not in the clip/);
    expect(() => freezeAt(straightMap(5, 0.2, 0.7), 2, 4)).toThrow(/no whole source frame/);
  });
});

describe('any run of edits', () => {
  type Step = (map: TimeMap) => TimeMap;
  const step: fc.Arbitrary<Step> = fc.oneof(
    fc.tuple(fc.nat(), speedArbitrary, fc.constantFrom('content' as const, 'slot' as const)).map(
      ([i, v, keep]): Step =>
        (m) =>
          setReachSpeed(m, i % (m.vertices.length - 1), v, K0, keep),
    ),
    fc
      .tuple(
        fc.nat(),
        fc.double({ min: -20, max: 200, noNaN: true }),
        fc.double({ min: -50, max: 900, noNaN: true }),
        fc.constantFrom('free' as const, 'left' as const, 'right' as const),
      )
      .map(
        ([i, t, s, drag]): Step =>
          (m) =>
            moveVertex(m, i % m.vertices.length, { t, s }, drag),
      ),
    fc.tuple(fc.nat(), fc.double({ min: 0, max: 90, noNaN: true }), easeArbitrary).map(
      ([i, widthFrames, ease]): Step =>
        (m) =>
          m.vertices.length < 3 ? m : setBend(m, 1 + (i % (m.vertices.length - 2)), { widthFrames, ease }),
    ),
    fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 1, max: 30 })).map(
      ([u, n]): Step =>
        (m) =>
          freezeAt(m, Math.floor(u * mapDuration(m)), n, { widthFrames: 6, ease: 'soft' }).map,
    ),
    fc.nat().map(
      (i): Step =>
        (m) =>
          m.vertices.length < 3 ? m : removeVertex(m, 1 + (i % (m.vertices.length - 2))),
    ),
    fc.constant<Step>(reverseMap),
    fc.double({ min: 2, max: 900, noNaN: true }).map(
      (d): Step =>
        (m) =>
          fitDuration(m, d),
    ),
  );

  test('either gives a sound map or is refused by name; the map before it is untouched', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.array(step, { maxLength: 12 }), (start, steps) => {
        let map = start;
        for (const edit of steps) {
          const before = JSON.stringify(map);
          let next: TimeMap;
          try {
            next = edit(map);
          } catch (error) {
            expect(error).toBeInstanceOf(InvalidInput);
            continue;
          }
          // Outside of the attempt: a map that is not sound is no refusal.
          checkTimeMap(next);
          expect(mapFrameCount(next)).toBeGreaterThan(0);
          expect(JSON.stringify(map)).toBe(before);
          map = next;
        }
      }),
      { numRuns: 1000 },
    );
  });
});

describe('map files', () => {
  test('come back as they were', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const read = parseMapFile(
          formatMapFile({ map, sourceRate: { num: 120, den: 1 }, timelineRate: { num: 24000, den: 1001 } }),
        );
        expect(read.map.vertices).toEqual(map.vertices);
        for (const t of [0, 3.3, 17]) expect(positionAt(read.map, t)).toBe(positionAt(map, t));
        expect(read.timelineRate).toEqual({ num: 24000, den: 1001 });
      }),
    );
  });

  test.each([
    ['{', /JSON/],
    ['{"version":2,"vertices":[]}', /version 1/],
    ['{"version":1,"vertices":[[0,0]]}', /at least two/],
    ['{"version":1,"vertices":[[0,0],[5]]}', /pair/],
    ['{"version":1,"vertices":[[0,0],[5,"x"]]}', /vertices\[1\]/],
    ['{"version":1,"vertices":[[0,0],[5,5]],"bends":[{"at":1,"width":2}]}', /interior/],
    ['{"version":1,"vertices":[[0,0],[5,5],[9,6]],"bends":[{"at":1,"width":2,"ease":"wobbly"}]}', /wobbly/],
    ['{"version":1,"vertices":[[0,0],[5,5],[9,6]],"bends":[{"at":1,"width":2},{"at":1,"width":1}]}', /already/],
    ['{"version":1,"vertices":[[0,0],[5,5]],"smooth":true}', /"smooth"/],
    ['{"version":1,"sourceRate":"0","vertices":[[0,0],[5,5]]}', /sourceRate/],
  ])('%s is refused by name', (text, message) => {
    expect(() => parseMapFile(text, 'curve.json')).toThrow(message);
    expect(() => parseMapFile(text, 'curve.json')).toThrow(InvalidInput);
  });

  test('a hard map has no bends to write', () => {
    expect(
      formatMapFile({
        map: { ...straightMap(4, 0, 4), bends: [HARD, HARD] },
        sourceRate: undefined,
        timelineRate: undefined,
      }),
    ).toBe('{"version":1,"vertices":[[0,0],[4,4]],"bends":[]}');
  });
});

describe('a bend that is moved with its speeds', () => {
  const slides = (check: (map: TimeMap, index: number, moved: TimeMap, keep: Keep) => void) =>
    fc.assert(
      fc.property(
        mapArbitrary.filter((map) => map.vertices.length > 2),
        fc.nat(),
        fc.double({ min: -60, max: 60, noNaN: true }),
        fc.constantFrom<Keep>('content', 'slot'),
        (map, n, by, keep) => {
          const index = 1 + (n % (map.vertices.length - 2));
          check(map, index, slideVertex(map, index, map.vertices[index]!.t + by, keep), keep);
        },
      ),
    );

  test('every reach has the speed it had', () => {
    slides((map, _, moved) => {
      for (let i = 0; i < map.vertices.length - 1; i++) expect(reachSlope(moved, i)).toBeCloseTo(reachSlope(map, i), 6);
    });
  });

  test('what is before it stays; what follows keeps its content, or its place in time', () => {
    slides((map, index, moved, keep) => {
      expect(moved.vertices.slice(0, index)).toEqual(map.vertices.slice(0, index));
      const freezes = reachSlope(map, index) === 0;
      for (let i = index + 1; i < map.vertices.length; i++) {
        const [was, is] = [map.vertices[i]!, moved.vertices[i]!];
        if (keep === 'content' && !freezes) expect(is.s).toBeCloseTo(was.s, 6);
        else expect(is.t).toBe(was.t);
      }
    });
  });

  test('it goes as far as it is asked to, or as there is room', () => {
    const map = {
      vertices: [
        { t: 0, s: 0 },
        { t: 30, s: 150 },
        { t: 90, s: 210 },
        { t: 120, s: 360 },
      ],
      bends: [HARD, HARD, HARD, HARD],
    };
    expect(slideVertex(map, 1, 36, 'content').vertices).toEqual([
      { t: 0, s: 0 },
      { t: 36, s: 180 },
      { t: 66, s: 210 },
      { t: 96, s: 360 },
    ]);
    expect(slideVertex(map, 1, 36, 'slot').vertices).toEqual([
      { t: 0, s: 0 },
      { t: 36, s: 180 },
      { t: 90, s: 234 },
      { t: 120, s: 384 },
    ]);
    const far = slideVertex(map, 1, 500, 'content').vertices;
    expect(far[1]!.t).toBeLessThan(42);
    expect(far[2]!.t).toBeGreaterThan(far[1]!.t);
    expect(slideVertex(map, 1, -5, 'slot').vertices[1]!.t).toBeGreaterThan(0);
    expect(() => slideVertex(map, 0, 5, 'content')).toThrow(InvalidInput);
  });
});
