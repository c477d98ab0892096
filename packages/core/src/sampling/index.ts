export { frameOfPosition, positionOfFrame, samplerWithoutRepeats, usableFrames } from './dropped-repeats.js';
export { clipFrameCount, missingSource } from './frame-count.js';
export {
  type InterpolationSettings,
  flowSampleAt,
  plainInterpolation,
  methodAt,
  sampleInterpolated,
  usesFlow,
} from './interpolation.js';
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
