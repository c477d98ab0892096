export { type FittingStretch, fittingStretches, takeStretch } from './fitting.js';
export { joinChain, putJoin, takeJoinOff } from './join.js';
export { motionAtJoin, putMatchedJoin } from './matched.js';
