export * from './kernels.js';
export {
  canFlow,
  Flow,
  flowBytes,
  isCut,
  sideOfCut,
  type BetweenOptions,
  type Keys,
  type Instant,
  type KeptShares,
  type PairFlow,
  type PairWish,
} from './flow/flow.js';
export { BLOCK, choiceFeatures, FEATURES, motionShares, type Blocks } from './flow/choice.js';
export { cameraMotion } from './flow/camera.js';
export { confidence, expectedDecibels, noErrorTerms, type ErrorTerms } from './flow/evidence.js';
export type { Field, GridFlow } from './flow/estimate.js';
export { EFFORTS, LEVELS, type FlowEffort, type Level } from './flow/levels.js';
export { Exposure, motionOfCamera, motionOfInstant, motionOfPair, usualReach, type MotionGrid } from './exposure.js';
export { Converter } from './convert.js';
export { HealthMeter } from './health/meter.js';
