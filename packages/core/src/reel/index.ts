export { clipAfter, joinAfter, peakSpeeds } from './active-joins.js';
export { allClips, clipSlope, plainClip, plainMap, sourceOf } from './clips.js';
export { interpolationOf, methodOf, tuningOf, usesBlur } from './interpolation.js';
export { pinnedFrame, type PlacedItem, placeItems, placeOf, reelFrames } from './places.js';
export { frameOfSecond, loudnessAt, placeName, type ReelBeat, reelBeats, secondOfFrame } from './sound-time.js';
