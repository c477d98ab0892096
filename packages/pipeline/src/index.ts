export * from './frame-provider.js';
export * from './compose.js';
export * from './clip-plan.js';
export * from './flow-cache.js';
export { LEVELS, type Level } from '@idle-bend/kernels';
export * from './sound/sound-provider.js';
export * from './sound/clip-voice.js';
export * from './sound/reel-sound.js';
export * from './effects.js';
