// TypeScript for Jest. Jest runs modules in a context of its own, where every look at a global is fifty times slower than outside; loops over
// pixels and frames look at these ones in every turn, so each module holds them itself.
import { createHash } from 'node:crypto';
import swc from '@swc/jest';

const HELD =
  'const { Math, Number, Array, Object, Uint8Array, Uint16Array, Int16Array, Int32Array, Float32Array, Float64Array } = globalThis; ';
const typescript = swc.createTransformer({
  jsc: { target: 'es2022', parser: { syntax: 'typescript', decorators: true } },
  module: { type: 'es6' },
});
// On the first line, so that lines keep their numbers.
const holding = (result) => ({ ...result, code: HELD + result.code });

export default {
  ...typescript,
  process: (...args) => holding(typescript.process(...args)),
  processAsync: async (...args) => holding(await typescript.processAsync(...args)),
  getCacheKey: (...args) =>
    createHash('sha1')
      .update(typescript.getCacheKey(...args))
      .update(HELD)
      .digest('hex'),
};
