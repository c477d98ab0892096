export { analyseBeats, ANY_TEMPO, type TempoRange } from './analyse.js';
export {
  barAt,
  barFrom,
  barsOf,
  doubled,
  evenBeats,
  fixedFrom,
  halved,
  isDownbeat,
  movedBeat,
  nearestBeat,
  placeInBar,
  shifted,
  tappedBeats,
  threeForTwo,
  twoForThree,
} from './grid.js';
export { beatStrengths } from './strength.js';
export { tempoOf } from './tempo-of.js';
