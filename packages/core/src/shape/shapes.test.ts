import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { easeCurve } from '../time-map/ease.js';
import { positionAt } from '../time-map/evaluate.js';
import { checkTimeMap, mapDuration, reachSlope, straightMap } from '../time-map/time-map.js';
import { BEND_SHAPES } from './bend-shapes.js';
import { asShape, CLIP_SHAPES, copyCurve, stretchShape } from './clip-shapes.js';
import { readShapes, type SavedShape, writeShapes } from './shape-file.js';

describe('the shape library', () => {
  test('has ten or more for a bend and for a clip, each distinct and each with when it suits and when not', () => {
    for (const shapes of [BEND_SHAPES, CLIP_SHAPES]) {
      expect(shapes.length).toBeGreaterThanOrEqual(10);
      for (const key of ['id', 'name', 'suits', 'avoid'] as const)
        expect(new Set(shapes.map((s) => s[key])).size).toBe(shapes.length);
    }
    expect(new Set(BEND_SHAPES.map((s) => easeCurve(s.ease).value(0.3).toFixed(3))).size).toBe(BEND_SHAPES.length);
  });

  test('every clip shape keeps a clip’s length and its first and last source frame', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...CLIP_SHAPES),
        fc.integer({ min: 24, max: 2000 }),
        fc.integer({ min: 20, max: 5000 }),
        fc.nat(900),
        (shape, frames, way, from) => {
          const bent = checkTimeMap(stretchShape(shape.map, straightMap(frames, from, from + way)));
          expect(mapDuration(bent)).toBe(frames);
          expect([bent.vertices[0]!.s, bent.vertices.at(-1)!.s]).toEqual([from, from + way]);
          expect(bent.bends.some((b) => b.widthFrames > 0)).toBe(true);
        },
      ),
    );
  });
});

describe('a clip’s curve on another clip', () => {
  test('stretched to the clip it came from it is the same curve', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const way = map.vertices.at(-1)!.s - map.vertices[0]!.s;
        fc.pre(Math.abs(way) >= 0.5);
        const back = stretchShape(asShape(map), map);
        const room = 1e-7 * Math.max(1, ...map.vertices.map((v) => Math.abs(v.s)));
        for (let i = 0; i <= 20; i++)
          expect(
            Math.abs(positionAt(back, (mapDuration(map) * i) / 20) - positionAt(map, (mapDuration(map) * i) / 20)),
          ).toBeLessThan(room);
      }),
    );
    expect(() => asShape(straightMap(10, 5, 5))).toThrow(/ends on the source frame it starts with/);
  });

  test('by absolute frames its times and speeds are kept, from this clip’s own start', () => {
    const other = stretchShape(CLIP_SHAPES[0]!.map, straightMap(100, 50, 550));
    const copied = copyCurve(other, straightMap(30, 7, 37), { other: 5, clip: 1 });
    expect(copied.vertices.map((v) => v.t)).toEqual(other.vertices.map((v) => v.t));
    expect(copied.vertices[0]!.s).toBe(7);
    expect(reachSlope(copied, 1) / 1).toBeCloseTo(reachSlope(other, 1) / 5, 12);
  });
});

describe('a file of shapes', () => {
  const shapes: SavedShape[] = [
    { id: 'a', name: 'My settle', note: 'for doors', kind: 'bend', ease: [0.1, 0.8, 0.2, 1] },
    { id: 'b', name: 'Bell', note: '', kind: 'clip', map: CLIP_SHAPES[0]!.map },
  ];
  test('comes back as it was', () => expect(readShapes(JSON.parse(writeShapes(shapes)))).toEqual(shapes));
  test.each<[string, (file: any) => void, RegExp]>([
    ['another file', (f) => (f.format = 'x'), /not a file of Idle Bend shapes/],
    ['a newer one', (f) => (f.version = 2), /newer than this program reads/],
    ['an unknown kind', (f) => (f.shapes[0].kind = 'z'), /shapes\[0\]\.kind.*bend, clip/],
    ['a wild ease', (f) => (f.shapes[0].ease = [2, 0, 0, 1]), /shapes\[0\]\.ease/],
    ['a curve that is no shape', (f) => (f.shapes[1].map.vertices[0].s = 3), /must run from \(0, 0\) to \(1, 1\)/],
  ])('%s is refused naming the place', (_, change, message) => {
    const file = JSON.parse(writeShapes(shapes));
    change(file);
    expect(() => readShapes(file)).toThrow(message);
  });
});
