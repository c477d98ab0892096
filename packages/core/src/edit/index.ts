export {
  addCue,
  addMoment,
  addSource,
  appendClip,
  backToPlain,
  conform,
  mergeClips,
  keepVersion,
  lockReach,
  moveItem,
  removeCue,
  removeItem,
  removeMoment,
  removeVersion,
  renameSource,
  replaceSource,
  setClipSound,
  setReachMethod,
  setReachSound,
  setReadAs,
  setDroppedRepeats,
  splitClip,
  tie,
  untie,
  updateClip,
  updateCue,
  updateMoment,
  useVersion,
} from './edit.js';
export { fillAt, framesToFill } from './frames-to-fill.js';
export { type NarrowedBend, narrowedBends } from './narrowed-bends.js';
export { type FrameCount, renumberSource } from './renumber-source.js';
export { rateChangeReport } from './rate-change-report.js';
export {
  duplicateClip,
  insertGap,
  leaveGap,
  missedPins,
  pinClip,
  replaceClip,
  setClipBlur,
  setFills,
  setFraming,
  setGap,
  setReelBlur,
  setReelColour,
  setReelRange,
  setReelRate,
  setReelSize,
  setSteady,
  reconcileReel,
  checkSlip,
  slipClip,
  stretchClip,
  trimEnd,
  trimStart,
} from './reel-edit.js';
export { addSound, cueOnSound, removeSound, setBeats, setCeiling, updateSound } from './sounds.js';
export { type ForMany, type Outcome, putOnMany } from './put-on-many.js';
export { layUnderReel, putOnReel, readFootageAs, sourceFor, withSource } from './put-on-reel.js';
export { addCuesAtCuts } from './cues-at-cuts.js';
export { withMap } from '../reel/with-map.js';
export { whatChanged } from './what-changed.js';
export { takeBack } from './take-back.js';
