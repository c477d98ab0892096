export { ACCENT_HITS, type AccentHits, type AccentPlaces, type AccentSet, AMOUNT_WAYS, type Amount } from './accent.js';
export type { BeatGrid } from './beat-grid.js';
export { type Blur, checkBlur, NO_BLUR, DEFAULT_SHUTTER, DEFAULT_SMEAR, MAX_SHUTTER_ANGLE } from './blur.js';
export type { Clip, Gap, ReelItem, SpeedLimits } from './clip.js';
export {
  type ClipSound,
  type FreezeSound,
  MAX_CLIP_GAIN,
  OWN_SOUND,
  MIN_CLIP_GAIN,
  type SoundMode,
} from './clip-sound.js';
export type { Cue } from './cue.js';
export { FITTED, type Framing, MAX_SCALE, MIN_SCALE } from './framing.js';
export { isGroup, type Source } from './group.js';
export {
  END_CHOICES,
  type EndChoice,
  DEFAULT_TUNING,
  FLOW_LEVELS,
  type FlowLevel,
  type FlowTuning,
  type Mend,
  type MendWay,
  type Method,
  METHODS,
  sameTuning,
} from './interpolation.js';
export { type RampJoin, type JoinChoice, type JoinKeeps, DEFAULT_JOIN } from './join.js';
export { emptyProject, parseProject, type Project } from './project.js';
export type { Stretch } from './reel.js';
export { MIN_GAIN, MAX_GAIN, type Sound } from './sound.js';
export { MOMENT_KINDS, type Moment, type MomentKind, type DroppedRepeats } from './source.js';
export type { Patch, Similarity, Steady, SteadyKeeps } from './steady.js';
export { DEFAULT_WHOOSH, type Whoosh } from './whoosh.js';
