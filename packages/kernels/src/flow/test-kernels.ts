import type { FlowKernels } from './flow-kernels.js';
import { takePlane, type Plane } from './planes.js';

export const held = (value: number, most: number) => Math.max(0, Math.min(most, value));

/** What tests of single kernels need around them. */
export function around({ arena, run }: FlowKernels) {
  /** A plane of `value` with the kernels' own border. */
  function plane(width: number, height: number, value: (x: number, y: number) => number): Plane {
    const bytes = Uint8Array.from({ length: width * height }, (_, i) => value(i % width, Math.floor(i / width)));
    const raw = arena.take(bytes.length);
    new Uint8Array(arena.memory.buffer).set(bytes, raw);
    const made = takePlane(arena, width, height);
    run.widen8(raw, width, made.at, made.stride, width, height);
    return made;
  }

  const at = (p: Plane, x: number, y: number) =>
    new DataView(arena.memory.buffer).getInt16(p.at + 2 * (y * p.stride + x), true);
  const floats = (address: number, count: number) =>
    new Float32Array(arena.memory.buffer.slice(address, address + 4 * count));

  /** Runs with fresh memory. */
  function freshly<T>(work: () => T): T {
    const mark = arena.mark();
    const result = work();
    arena.release(mark);
    return result;
  }
  return { plane, at, floats, freshly };
}
