export {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  BUNDLED_ORIGINAL,
  type BundledFootage,
  type BundleManifest,
  parseBundle,
  withFootageIds,
} from './bundle.js';
export { formatCueCsv, formatCueVtt, type NamedTime, parseCueCsv, parseCueVtt } from './cue-text.js';
export { decodeText } from './decode-text.js';
export { formatEdl } from './edl.js';
export { parseEdl } from './edl-read.js';
export { formatFrameMap } from './frame-map.js';
export { midiOf, readMidi } from './midi-cues.js';
export { formatOtio } from './otio.js';
export { parseOtio } from './otio-read.js';
export { lossesOf, piecesOf } from './pieces.js';
export type { OfferedFootage, ImportedTimeline } from './imported-timeline.js';
