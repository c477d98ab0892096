export { estimateSeconds, renderCost, type RenderCost } from './cost.js';
export {
  formatOfEnding,
  RENDER_ENDINGS,
  RENDER_FORMAT_NAMES,
  RENDER_FORMATS,
  RENDER_PURPOSES,
  renderDepth,
  type RenderFormatName,
  type RenderPurpose,
} from './format.js';
export { type Chapter, chaptersOf, startTimecode } from './chapters.js';
export {
  atQuality,
  chunksOf,
  draftSize,
  DEFAULT_SETTINGS,
  RENDER_DEPTHS,
  RENDER_PARTS,
  RENDER_QUALITIES,
  RENDER_RANGES,
  RENDER_TIMECODES,
  type RenderDepth,
  renderDocument,
  type RenderPart,
  type RenderPiece,
  renderPieces,
  type RenderQuality,
  type RenderRange,
  type RenderSettings,
  type RenderTimecode,
} from './settings.js';
export { readRenderCost, readRenderSettings } from './read-render.js';
