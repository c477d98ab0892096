export { loudnessAmount } from './amount.js';
export { leaveOut, pullTransition, putAccents, putTransition, removeAccents, transitionInto } from './edit-accents.js';
export { crossingsOf } from './crossings.js';
export { effectsOf } from './effects.js';
export { flickerSpots } from './flicker.js';
export { type AccentTime, accentTimes } from './accent-times.js';
export { accentsName, clipsAfterCuts, HIT_WORDS, newAccents } from './new-accents.js';
export { isTransition } from './transition.js';
export { clipsBesideCuts, whipLine } from './whip-line.js';
