import { isTransition } from '../accent/transition.js';
import { effectsOf } from '../accent/effects.js';
import type { Effects } from '../look/look.js';
import type { Project } from '../model/project.js';
import { reelDrifts, type ReelDrift } from './land-reel.js';

/** Less than this of its picture in sight, and a landing is not seen. */
const SEEN = 0.5;

/** What has landed where less than half of its picture is seen, for a transition lies over it. */
export function coveredLandings(project: Project): ReelDrift[] {
  // A flash on a hit is meant to be there.
  const accents = project.reel.accents.filter(isTransition);
  if (accents.length === 0) return [];
  const effects = effectsOf({ ...project, reel: { ...project.reel, accents } });
  return reelDrifts(project).filter(
    ({ landed, tied, shownAt }) => landed && tied && seenShare(effects(shownAt), shownAt) < SEEN,
  );
}

/** How much of its picture a frame of the reel shows, 0 … 1. */
function seenShare({ across, flash }: Effects, frame: number): number {
  const share = across === undefined ? 1 : frame < across.cut ? 1 - across.come : across.come;
  return share * (1 - (flash?.amount ?? 0));
}
