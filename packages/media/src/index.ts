export * from './media-error.js';
export { programPath, collect, safeInput, start, ended } from './ffmpeg.js';
export * from './probe.js';
export * from './frame-index.js';
export * from './source.js';
export * from './source-reader.js';
export * from './encoder.js';
export * from './kernels.js';
export * from './write-clip.js';
