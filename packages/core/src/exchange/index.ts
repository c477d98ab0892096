export {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  BUNDLED_ORIGINAL,
  BUNDLED_MEDIA,
  BUNDLED_PROXY,
  BUNDLED_SOUND,
  type BundledFootage,
  type BundledMedia,
  type BundleManifest,
  parseBundle,
  withFootageIds,
} from './bundle.js';
export { formatCueCsv, formatCueVtt, type NamedTime, parseCueCsv, parseCueVtt } from './cue-text.js';
export { decodeText } from './decode-text.js';
export { midiOf, readMidi } from './midi-cues.js';
export { lossesOf, piecesOf } from './pieces.js';
export type { OfferedFootage, ImportedTimeline } from './imported-timeline.js';
export { countsDropFrames } from './start-times.js';
export {
  READ_ENDINGS,
  readTimeline,
  TIMELINE_FORMAT_NAMES,
  TIMELINE_FORMATS,
  type TimelineFormatName,
  writeTimeline,
} from './timeline-formats.js';
