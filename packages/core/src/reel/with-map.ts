import type { Clip } from '../model/clip.js';
import type { TimeMap } from '../time-map/time-map.js';

/** Gives a clip another curve. Locks stay with their reaches; those of reaches that are gone go. */
export function withMap(clip: Clip, map: TimeMap): Clip {
  if (map === clip.map) return clip;
  const locks = clip.locks.map((reach) => followReach(clip.map, map, reach)).filter((reach) => reach !== undefined);
  const reachMethods = clip.reachMethods.flatMap((own) => {
    const reach = followReach(clip.map, map, own.reach);
    return reach === undefined ? [] : [{ ...own, reach }];
  });
  const reaches = clip.sound.reaches.flatMap((own) => {
    const reach = followReach(clip.map, map, own.reach);
    return reach === undefined ? [] : [{ ...own, reach }];
  });
  const sound = { ...clip.sound, reaches: inOrder(reaches) };
  return { ...clip, map, locks: [...new Set(locks)].sort((a, b) => a - b), reachMethods: inOrder(reachMethods), sound };
}

/** By reach, increasing; of several for one the first stays. */
export const inOrder = <T extends { readonly reach: number }>(methods: readonly T[]): T[] =>
  methods.filter(({ reach }, i) => methods.findIndex((m) => m.reach === reach) === i).sort((a, b) => a.reach - b.reach);

/** Where a reach of `before` is in `after`: counted from whichever end the two maps share it with. */
function followReach(before: TimeMap, after: TimeMap, reach: number): number | undefined {
  const grown = after.vertices.length - before.vertices.length;
  if (grown === 0) return reach;
  const same = (i: number) =>
    before.vertices[i]!.t === after.vertices[i]?.t && before.vertices[i]!.s === after.vertices[i]?.s;
  const kept = before.vertices.findIndex((_, i) => !same(i));
  const index = kept < 0 || reach + 1 < kept ? reach : reach + grown;
  return index >= 0 && index < after.vertices.length - 1 ? index : undefined;
}
