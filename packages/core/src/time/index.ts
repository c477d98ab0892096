export { constantGrid, type ConstantGrid, decodedFrame } from './constant-grid.js';
export {
  formatRate,
  framesPerSecond,
  frameToSeconds,
  naturalSlope,
  parseRate,
  type Rate,
  rate,
  sameRate,
  secondsToFrames,
  speakRate,
} from './rate.js';
export { multiply, parseDecimal, rational, type Rational, timesWhole, toNumber } from './rational.js';
export { parseSpeed, percentFigure, percentText, type SpeedMeasure } from './speed-text.js';
export { parseLength } from './length.js';
export { canDropFrames, formatTimecode, isDropFrame, parseTimecode } from './timecode.js';
