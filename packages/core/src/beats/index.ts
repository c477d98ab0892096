export { analyseBeats, type BeatSection } from './analyse.js';
export { ANY_TEMPO, type TempoRange } from './tempo-range.js';
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
export { couldBeLater, laterWithin, surenessOf } from './unsure.js';
