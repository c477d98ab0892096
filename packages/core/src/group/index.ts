export { bindItems, playsAsItIs, unbind } from './bind.js';
export { excerptOf, footageOf, footageOnReel, insideGroup, withInside } from './inside.js';
export { isCutInside } from './moments-inside.js';
