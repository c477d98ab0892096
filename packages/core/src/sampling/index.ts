export { frameOfPosition, positionOfFrame, skippingSampler, usableFrames } from './dropped-repeats.js';
export { clipFrameCount, missingSource } from './frame-count.js';
export { type Making, momentMade, plainMaking, sampleMade, usesFlow } from './interpolation.js';
export {
  type FlowSample,
  isInSource,
  isWholeFrame,
  madeOf,
  nowOf,
  partsOf,
  type PlainSample,
  type Sample,
  sampleAt,
  type SimpleSample,
} from './sample.js';
export { parseSample } from './sample-file.js';
