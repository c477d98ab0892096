export { PEAKS_PER_SECOND, peaksOf } from './peaks.js';
export { reachOf, resample, SOUND_RATE } from './resample.js';
export { type Crossing, CROSSED, soundPath, type SoundPath } from './sound-path.js';
export { whooshSound } from './whoosh-sound.js';
