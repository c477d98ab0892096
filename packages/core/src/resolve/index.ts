export { type ResolvedFrame, resolveFrames, resolveReel } from './resolve-frames.js';
export { resolveClip, type ClipFrame } from './resolve-clip.js';
