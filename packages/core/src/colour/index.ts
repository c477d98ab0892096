export {
  BT2100_HLG,
  BT2100_PQ,
  BT709,
  type ColourSpace,
  highRangeOf,
  reelSpaceOf,
  sameSpace,
  spaceOf,
  spaceWords,
  tagsOf,
} from './colour-space.js';
export { type ColourConversion, conversionOf, type LightGain, spaceIn } from './conversion.js';
