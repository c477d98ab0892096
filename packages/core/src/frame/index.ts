export { colourFrame, invertInto, lumaWeights } from './colour-frame.js';
export { blackCodes, blackFrame, type ColourTags, type Frame, type FrameFormat, NO_COLOUR_TAGS } from './frame.js';
export {
  bytesPerSample,
  deepened,
  frameBytes,
  parsePixelFormat,
  type PixelLayout,
  planeSizes,
  reduced,
} from './pixel-format.js';
