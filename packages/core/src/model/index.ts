export {
  ACCENT_HITS,
  type AccentHits,
  type AccentKind,
  type AccentLook,
  type AccentPlaces,
  type AccentSet,
  type FlashColour,
  PLAIN_LOOKS,
  PUSH_WAYS,
} from './accent.js';
export type { BeatGrid } from './beat-grid.js';
export { type Blur, checkBlur, NO_BLUR, PLAIN_SHUTTER, PLAIN_SMEAR, WIDEST_ANGLE } from './blur.js';
export type { Clip, Gap, ReelItem, SpeedLimits } from './clip.js';
export { type ClipSound, type FreezeSound, LOUDEST, OWN_SOUND, QUIETEST, type SoundMode } from './clip-sound.js';
export type { Cue } from './cue.js';
export { FITTED, type Framing, LARGEST_SCALE, SMALLEST_SCALE } from './framing.js';
export { isGroup, type Source } from './group.js';
export {
  END_CHOICES,
  type EndChoice,
  EVEN_TEMPER,
  FLOW_LEVELS,
  type FlowLevel,
  type FlowTemper,
  type Mend,
  type MendWay,
  type Method,
  METHODS,
  sameTemper,
} from './interpolation.js';
export { type Join, type JoinChoice, type JoinKeeps, PLAIN_JOIN } from './join.js';
export { emptyProject, parseProject, type Project } from './project.js';
export type { Stretch } from './reel.js';
export { LEAST_GAIN, MOST_GAIN, type Sound } from './sound.js';
export type { Moment, Skips } from './source.js';
export type { Patch, Similarity, Steady, SteadyKeeps } from './steady.js';
export { PLAIN_WHOOSH, type Whoosh } from './whoosh.js';
