import { instantiate } from '../instantiate.js';
import type { KernelCalls } from '../kernel-calls.js';
import { Arena } from './arena.js';
import type { Plane } from './planes.js';

/** The flow kernels over one WebAssembly memory. */
export class FlowKernels {
  readonly arena = new Arena();
  readonly run: KernelCalls;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.run = instantiate(module, this.arena.memory);
  }

  /** Room for `data` and its content; a kernel may read 64 bytes beyond. */
  load(data: Float32Array): number {
    const at = this.arena.take(data.byteLength + 64);
    new Float32Array(this.arena.memory.buffer).set(data, at / 4);
    return at;
  }

  /** A copy that workers may share, where the platform lets them. */
  copy(at: number, count: number): Float32Array {
    const out = new Float32Array(
      typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(count * 4) : new SharedArrayBuffer(count * 4),
    );
    out.set(new Float32Array(this.arena.memory.buffer, at, count));
    return out;
  }

  halve(finer: Plane, plane: Plane): void {
    this.run.halve(finer.at, finer.stride, plane.at, plane.stride, plane.width, plane.height);
  }

  slopes({ at, stride, width, height, alongX, alongY }: Sloped): void {
    this.run.slopes(at, stride, width, height, alongX, alongY);
  }

  /** `target` gets every sample of `plane` times `gain` plus `offset`; they may be one. */
  expose(plane: Plane, target: Plane, gain: number, offset: number): void {
    this.run.expose(plane.at, target.at, plane.stride, plane.width, plane.height, gain, offset);
  }
}

/** A plane with its slopes, which lie as it does. */
export interface Sloped extends Plane {
  readonly alongX: number;
  readonly alongY: number;
}
