export { groupItems, playsAsItIs, ungroup } from './group-items.js';
export { excerptOf, footageOf, footageOnReel, insideGroup, withInside } from './inside.js';
export { isCutInside } from './moments-inside.js';
export { withGapsBetween } from './picked-stretch.js';
