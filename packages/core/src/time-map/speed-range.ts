import { easeCurve } from './ease.js';
import { bendWindow, reachSlope, type TimeMap } from './time-map.js';

/**
 * The lowest and highest speed a clip takes (1 = 100 %, signed), inside its bends too where a shape overshoots. A reach
 * that bends leave no room on does not count.
 */
export function speedRange(map: TimeMap, k0: number): { slowest: number; fastest: number } {
  const speeds: number[] = [];
  for (let i = 0; i < map.vertices.length - 1; i++) {
    const [before, after] = [reachSlope(map, i), i + 1 < map.vertices.length - 1 ? reachSlope(map, i + 1) : undefined];
    if (bendWindow(map, i + 1).from - bendWindow(map, i).to > 1e-9) speeds.push(before);
    const bend = map.bends[i + 1]!;
    if (after === undefined || bend.widthFrames === 0) continue;
    const { value, turns } = easeCurve(bend.ease);
    for (const u of [0, 1, ...turns]) speeds.push(before + (after - before) * value(u));
  }
  return { slowest: Math.min(...speeds) / k0, fastest: Math.max(...speeds) / k0 };
}
