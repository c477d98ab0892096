export * from './kernels.js';
