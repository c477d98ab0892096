export { speedThrough, mendSpot, removeMend, updateMend } from './mend.js';
export { byDoubt, clipConfidence, type RoughSpot, roughSpots } from './rough-spots.js';
