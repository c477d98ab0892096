import type { Project } from '../model/project.js';
import { cutMotion } from '../motion/cut-motion.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { placeItems } from '../reel/places.js';
import type { AccentSet } from '../model/accent.js';

/**
 * The line along which the pictures move beside the cuts a set lies on, whole degrees from −90 to 90 as a whip counts them; faster ones
 * count for more, and forward or back is the same. Nothing where no motion is known or none goes one way. Angles are doubled before they
 * are added (K. V. Mardia, "Statistics of Directional Data", 1972, on axes).
 */
export function whipLine(
  project: Project,
  { on }: AccentSet,
  motions: ReadonlyMap<string, SourceMotion>,
): number | undefined {
  const places = placeItems(project);
  let [x, y] = [0, 0];
  for (const [i, { item }] of places.entries()) {
    const before = places[i - 1]?.item;
    if (on.kind !== 'cuts' || item.kind !== 'clip' || before?.kind !== 'clip' || !on.clipIds.includes(item.id))
      continue;
    const [first, second] = [motions.get(before.sourceId), motions.get(item.sourceId)];
    const cut = first && second && cutMotion(project, before, first, item, second);
    if (!cut) continue;
    for (const { degrees, perFrame } of [cut.before, cut.after])
      if (degrees !== undefined) {
        x += perFrame * Math.cos((degrees * Math.PI) / 90);
        y += perFrame * Math.sin((degrees * Math.PI) / 90);
      }
  }
  return x === 0 && y === 0 ? undefined : Math.round((Math.atan2(y, x) * 90) / Math.PI);
}
