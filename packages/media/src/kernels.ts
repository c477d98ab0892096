import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { setFlagsFromString } from 'node:v8';
import { Converter, Exposure, Flow, HealthMeter, Kernels } from '@idle-bend/kernels';

const read = () => readFileSync(createRequire(import.meta.url).resolve('@idle-bend/kernels/kernels.wasm'));
let compiled: WebAssembly.Module | undefined;
function module(): WebAssembly.Module {
  if (compiled) return compiled;
  // Only what is called is compiled: a short job spends less on that than on its pictures.
  setFlagsFromString('--wasm-lazy-compilation');
  return (compiled = new WebAssembly.Module(read()));
}

let digest: string | undefined;
/** Stands for these kernels: what others found may differ. */
export const kernelsDigest = (): string => (digest ??= createHash('sha1').update(read()).digest('hex'));

/** The pixel kernels for this thread. */
export const loadKernels = (): Kernels => new Kernels(module());

let converter: Converter | undefined;
/** What brings pictures into another colour space, for this thread. */
export const loadConverter = (): Converter => (converter ??= new Converter(module()));

/** What gathers light for this thread. */
export const loadExposure = (): Exposure => new Exposure(module());

/** What looks at a source's pictures one after another, for one source. */
export const loadHealthMeter = (): HealthMeter => new HealthMeter(module());

/** Motion and in-betweens for this thread. */
export const loadFlow = (): Flow => new Flow(module());
