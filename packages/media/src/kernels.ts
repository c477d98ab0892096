import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Flow, Kernels } from '@idle-bend/kernels';

let compiled: WebAssembly.Module | undefined;
const module = () => (compiled ??= new WebAssembly.Module(readFileSync(createRequire(import.meta.url).resolve('@idle-bend/kernels/kernels.wasm'))));

/** The pixel kernels for this thread. */
export const loadKernels = (): Kernels => new Kernels(module());

/** Motion and in-betweens for this thread. */
export const loadFlow = (): Flow => new Flow(module());
