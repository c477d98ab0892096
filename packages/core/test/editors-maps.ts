import type { Landing } from '../src/clean/landing.js';
import { positionAt } from '../src/time-map/evaluate.js';
import { checkTimeMap, clampBends, mapDuration, type TimeMap } from '../src/time-map/time-map.js';

/** A stream of numbers 0 … 1 that is the same in every run. */
export function numbers(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

/** A map as an editor makes it: clean speeds, changes on whole frames, bends, now and then a freeze or a stretch backward. */
export function editorsMap(random: () => number): TimeMap {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const natural = pick([5, 2.5, 4, 2, 10, 1]);
  const slopes = [1, 2, 0.5, 0.2, 0.4, 1 / natural, 2 / natural, 3 / natural].map((speed) => speed * natural);
  const clean = slopes.filter((slope) =>
    [1, 2, 3, 4, 5].some((q) => Math.abs(slope * q - Math.round(slope * q)) < 1e-9),
  );
  const vertices = [{ t: 0, s: 40 + Math.floor(random() * 50) }];
  const count = pick([2, 3, 3, 3, 4, 5]);
  for (let i = 0, last = NaN; i < count; i++) {
    const others = clean.filter((slope) => slope !== last);
    const slope = i > 0 && i < count - 1 && random() < 0.1 ? 0 : pick(others);
    last = slope;
    let length = 16 + Math.floor(random() * 50);
    while (Math.abs(slope * length - Math.round(slope * length)) > 1e-9) length++;
    const { t, s } = vertices[i]!;
    vertices.push({ t: t + length, s: Math.round(s + slope * length) });
  }
  const bends = vertices.map((_, i) => ({
    widthFrames: i === 0 || i === count ? 0 : pick([0, 6, 8, 10, 12]),
    ease: 'soft' as const,
  }));
  return checkTimeMap(clampBends({ vertices, bends }));
}

/** Moments shown near where they show now, none of them frozen. */
export function landingsFor(map: TimeMap, count: number, off: number, random: () => number): Landing[] {
  const end = mapDuration(map);
  return Array.from({ length: count }, (_, n) => {
    const at = Math.round((end * (n + 0.3 + 0.4 * random())) / count);
    return { moment: Math.round(positionAt(map, at)), cue: at + Math.round((2 * random() - 1) * off) };
  }).filter(
    ({ moment, cue }) =>
      cue > 0 && cue < end && !map.vertices.some(({ s }, i) => s === moment && map.vertices[i + 1]?.s === moment),
  );
}
