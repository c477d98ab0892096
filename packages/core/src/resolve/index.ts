export { type ResolvedFrame, resolveFrames, resolveReel } from './resolve-frames.js';
export { showing, type Shown } from './shown.js';
