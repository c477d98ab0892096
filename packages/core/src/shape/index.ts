export { BEND_SHAPES } from './bend-shapes.js';
export { asShape, CLIP_SHAPES, copyCurve, stretchShape } from './clip-shapes.js';
export { readShape, readShapes, type SavedShape, writeShapes } from './shape-file.js';
