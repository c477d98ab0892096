export { shownStretch, steadySentence } from './shown-stretch.js';
export { steadyPatch, steadyWhole } from './steady.js';
export { type Luma, PatchTracker } from './track.js';
