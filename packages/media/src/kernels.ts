import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Kernels } from '@idle-bend/kernels';

let module: WebAssembly.Module | undefined;

/** The pixel kernels for this thread. */
export function loadKernels(): Kernels {
  module ??= new WebAssembly.Module(readFileSync(createRequire(import.meta.url).resolve('@idle-bend/kernels/kernels.wasm')));
  return new Kernels(module);
}
