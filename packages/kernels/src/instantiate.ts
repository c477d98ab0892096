import { callsOf, type KernelCalls, type KernelExports } from './kernel-calls.js';

/** The kernels over a memory of their own. @param module the compiled `kernels.wasm` of this package */
export const instantiate = (module: WebAssembly.Module, memory: WebAssembly.Memory): KernelCalls =>
  callsOf(new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as KernelExports);
