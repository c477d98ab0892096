export { leaveOut, putAccents, removeAccents } from './edit-accents.js';
export { type Effects, effectsOf, NO_EFFECTS } from './effects.js';
export { flickerSpots } from './flicker.js';
export { accentTimes } from './accent-times.js';
