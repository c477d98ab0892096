export { changeJoin, firstJoin, joinAll, type JoinMotions, matchJoin } from './first-join.js';
export { type FittingStretch, fittingStretches, takeStretch } from './fitting.js';
export { putJoin, takeJoinOff } from './join.js';
export { motionAtJoin, putMatchedJoin } from './matched.js';
export { placesMoved } from './ramp-by-places.js';
