// The pixel kernels, AssemblyScript with SIMD. Addresses are byte offsets into the imported memory.
export { blend8, blend16 } from './blend';
export { yuv420ToRgba } from './colour';
