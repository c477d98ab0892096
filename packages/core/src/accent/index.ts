export { leaveOut, putAccents, removeAccents } from './edit-accents.js';
export { effectsOf } from './effects.js';
export { flickerSpots } from './flicker.js';
export { accentTimes } from './accent-times.js';
export { accentsName, clipsAfterCuts, HIT_WORDS, newAccents } from './new-accents.js';
