export { conflictSentence } from './conflict-sentence.js';
export { type Conflict, land } from './conflicts.js';
export { clipDrifts, type Drift } from './drift.js';
export { type LandingFreedom, landClip } from './land-clip.js';
export { byDrift, type LandedReel, landReel, reelDrifts } from './land-reel.js';
export { parseLandings } from './landings-file.js';
export { type Landing, SOLVE_DEFAULTS } from './solve.js';
export { pinToNearest, proposeLanding, type Target, targetsIn, withCueAt } from './targets.js';
