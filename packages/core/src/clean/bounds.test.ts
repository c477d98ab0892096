import { describe, expect, test } from '@jest/globals';
import { editorsMap, numbers } from '../../test/editors-maps.js';
import { easeCurve } from '../time-map/ease.js';
import { positionAt } from '../time-map/evaluate.js';
import { bendWindow, MIN_VERTEX_FRAMES } from '../time-map/time-map.js';
import { InterceptBounds } from './bounds.js';
import type { Landing } from './landing.js';
import { isCrossing, slopesOf } from './reference.js';

const random = numbers(41);
/** Editors' curves as they are found, of references whose places lay elsewhere by less than the patience. */
const cases = Array.from({ length: 300 }, () => {
  const map = editorsMap(random);
  const slopes = slopesOf(map);
  const patience = 8;
  const reference = {
    ...map,
    slopes,
    vertices: map.vertices.map(({ t, s }, i) =>
      i === 0 || i === slopes.length ? { t, s } : { t: t + (2 * random() - 1) * patience, s },
    ),
  };
  const narrowest = map.bends.map(({ widthFrames }) => Math.min(widthFrames, 4));
  const means = map.bends.map(({ ease }) => easeCurve(ease).mean);
  const intercepts = slopes.map((slope, i) => map.vertices[i]!.s - slope * map.vertices[i]!.t);
  const bounds = new InterceptBounds(reference, { patience, freeEnd: random() < 0.5 }, { means, narrowest });
  return { map, reference, slopes, intercepts, bounds, patience };
});

describe('bounds of an intercept', () => {
  test('hold the intercept of every curve that is an answer, whatever is known of its neighbours', () => {
    let narrowed = 0;
    for (const { map, slopes, intercepts, bounds } of cases) {
      const reach = Math.floor(random() * slopes.length);
      const isKnown = slopes.map((_, i) => i !== reach && random() < 0.6);
      const bend = 1 + Math.floor(random() * (slopes.length - 1));
      const { from, to } = bendWindow(map, bend);
      const cue = from + (to - from) * random();
      const landings: Landing[] = [{ cue, moment: positionAt(map, cue) }];
      const { low, high } = bounds.of(reach, (i) => (isKnown[i] ? intercepts[i]! : NaN), landings, [bend - 0.5]);
      expect(intercepts[reach]!).toBeGreaterThanOrEqual(low);
      expect(intercepts[reach]!).toBeLessThanOrEqual(high);
      if (Number.isFinite(low) && Number.isFinite(high)) narrowed++;
    }
    expect(narrowed).toBeGreaterThan(150);
  });

  test('let a place with known neighbours move no further than the patience, and not onto them', () => {
    let seen = 0;
    for (const { reference, slopes, intercepts, bounds, patience } of cases) {
      for (let i = 1; i + 1 < slopes.length; i++) {
        const [into, out] = [slopes[i - 1]! - slopes[i]!, slopes[i]! - slopes[i + 1]!];
        if (!isCrossing(into) || !isCrossing(out)) continue;
        const { low, high } = bounds.of(i, (n) => (n === i ? NaN : (intercepts[n] ?? NaN)), [], []);
        for (const o of [low, high]) {
          const first = (o - intercepts[i - 1]!) / into;
          const last = (intercepts[i + 1]! - o) / out;
          expect(Math.abs(first - reference.vertices[i]!.t)).toBeLessThanOrEqual(patience + 1e-4);
          expect(Math.abs(last - reference.vertices[i + 1]!.t)).toBeLessThanOrEqual(patience + 1e-4);
          expect(last - first).toBeGreaterThanOrEqual(MIN_VERTEX_FRAMES - 1e-4);
          seen++;
        }
      }
    }
    expect(seen).toBeGreaterThan(200);
  });
});
