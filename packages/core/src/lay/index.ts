export { clipsToLay, type EachLength, lengthsFor } from './clips-to-lay.js';
export { type LayChoice, layClips, type LayPlan, planLay } from './lay.js';
