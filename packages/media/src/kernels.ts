import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Flow, Kernels } from '@idle-bend/kernels';

const read = () => readFileSync(createRequire(import.meta.url).resolve('@idle-bend/kernels/kernels.wasm'));
let compiled: WebAssembly.Module | undefined;
const module = () => (compiled ??= new WebAssembly.Module(read()));

let digest: string | undefined;
/** Stands for these kernels: what others found may differ. */
export const kernelsDigest = (): string => (digest ??= createHash('sha1').update(read()).digest('hex'));

/** The pixel kernels for this thread. */
export const loadKernels = (): Kernels => new Kernels(module());

/** Motion and in-betweens for this thread. */
export const loadFlow = (): Flow => new Flow(module());
