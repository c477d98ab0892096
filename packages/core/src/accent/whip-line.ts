import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { cutMotion } from '../motion/cut-motion.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { placeItems } from '../reel/places.js';
import type { AccentSet } from '../model/accent.js';

/** The clips on both sides of every cut a set lies on, where there is one on either. */
export function clipsBesideCuts(project: Project, { on }: AccentSet): (readonly [before: Clip, after: Clip])[] {
  const items = placeItems(project).map(({ item }) => item);
  return items.flatMap((after, i) => {
    const before = items[i - 1];
    return on.kind === 'cuts' && after.kind === 'clip' && before?.kind === 'clip' && on.clipIds.includes(after.id)
      ? [[before, after] as const]
      : [];
  });
}

/**
 * The line along which the pictures move beside the cuts a set lies on, whole degrees from −90 to 90 as a whip counts them; faster ones
 * count for more, and forward or back is the same. Nothing where no motion is known or none goes one way. Angles are doubled before they
 * are added (K. V. Mardia, "Statistics of Directional Data", 1972, on axes).
 */
export function whipLine(
  project: Project,
  set: AccentSet,
  motions: ReadonlyMap<string, SourceMotion>,
): number | undefined {
  let [x, y] = [0, 0];
  for (const [before, after] of clipsBesideCuts(project, set)) {
    const [first, second] = [motions.get(before.sourceId), motions.get(after.sourceId)];
    const cut = first && second && cutMotion(project, before, first, after, second);
    if (!cut) continue;
    for (const { degrees, perFrame } of [cut.before, cut.after])
      if (degrees !== undefined) {
        x += perFrame * Math.cos((degrees * Math.PI) / 90);
        y += perFrame * Math.sin((degrees * Math.PI) / 90);
      }
  }
  return x === 0 && y === 0 ? undefined : Math.round((Math.atan2(y, x) * 90) / Math.PI);
}
