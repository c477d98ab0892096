export { cleanPlace } from './clean-place.js';
export { fitCleanly } from './fit.js';
export { putShape } from './put-shape.js';
export type { Landing } from './landing.js';
export { realFrames, reachPhases } from './real-frames.js';
