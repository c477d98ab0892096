// The pixel kernels, AssemblyScript with SIMD. Addresses are byte offsets into the imported memory.
export { blend8, blend16 } from './blend';
export { yuv420ToRgba } from './colour';
export { smear, gathered } from './smear';
export { streak } from './streak';
export { checksum } from './checksum';
export { place, shrink } from './place';
export { widen8, widen16, halve, slopes } from './flow/image';
export { searchPatches, searchAfar, scanPatches } from './flow/inverse-search';
export { spread, inherit, smoothAlike } from './flow/spread';
export { agree, agreement, propagateTrusted } from './flow/trust';
export { accelerate, bothEnds } from './flow/accelerate';
export { project } from './flow/project';
export { solve, removeOutliers, fillHoles } from './flow/solve';
export { tune } from './flow/tuning';
export { synthesise } from './flow/synthesise';
export { fitExposure, exposureGain, exposureOffset, expose } from './flow/exposure';
export { errorTerms } from './flow/error-terms';
export { readRow, readChromaRow, toRgb, fromRgb, codesToLight, lightToCodes, gain, mixPrimaries, writeRow, writeChromaRow } from './convert';
