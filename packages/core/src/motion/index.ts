export { calmerFrame } from './calm.js';
export {
  BESIDE_CUT,
  cutMotion,
  cutSentence,
  motionWords,
  type SideMotion,
  sideMotion,
  waysSentence,
} from './cut-motion.js';
export { type MotionStretch, motionStretches, SAME_WAY, turn } from './directions.js';
export {
  type CameraMotion,
  pairMotion,
  type PairMotion,
  parseMotion,
  ROUGH_BELOW,
  type SourceMotion,
  writeMotion,
} from './source-motion.js';
