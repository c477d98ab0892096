import { bytesPerSample, planeSizes, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { CameraMotion } from '@idle-bend/core/motion';
import { Arena } from './flow/arena.js';
import { instantiate } from './instantiate.js';
import type { KernelCalls } from './kernel-calls.js';
import type { Instant, PairFlow } from './flow/flow.js';

/** Which way what is seen moves at every point of a grid, (u, v) in grid steps from one source frame to the next. */
export interface MotionGrid {
  readonly width: number;
  readonly height: number;
  /** The grid's step in pixels of the picture. */
  readonly step: number;
  readonly vectors: Float32Array;
}

/** Gathers the light of one output frame: pictures of moments while the shutter is open, each smeared along its own motion. */
export class Exposure {
  private readonly arena = new Arena();
  private readonly run: KernelCalls;
  private sums = 0;
  private total = 0;
  private format: FrameFormat | undefined;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.run = instantiate(module, this.arena.memory);
  }

  begin(format: FrameFormat): void {
    this.format = format;
    this.total = 0;
    const samples =
      planeSizes(format.layout, format.width, format.height).reduce((sum, { bytes }) => sum + bytes, 0) /
      bytesPerSample(format.layout);
    this.arena.release(Arena.FIRST);
    this.sums = this.arena.take(samples * 4);
    new Float32Array(this.arena.memory.buffer, this.sums, samples).fill(0);
  }

  /** Adds a picture, smeared by `frames` source frames of motion about where it is now; without motion as it is. `weight` is its part of the time. */
  add(
    { data, format: { layout, width, height } }: Frame,
    motion: MotionGrid | undefined,
    frames: number,
    weight = 1,
  ): void {
    const mark = this.arena.mark();
    const grid = motion ?? STILL;
    const [picture, field] = [this.arena.take(data.length), this.arena.take(grid.vectors.byteLength)];
    new Uint8Array(this.arena.memory.buffer).set(data, picture);
    new Float32Array(this.arena.memory.buffer).set(grid.vectors, field / 4);
    const size = bytesPerSample(layout);
    let [from, sums] = [picture, this.sums];
    for (const plane of planeSizes(layout, width, height)) {
      // Samples of this plane for a pixel of the picture: chroma may be coarser.
      const [acrossX, acrossY] = [plane.width / width, plane.height / height];
      const scale = motion ? frames * grid.step : 0;
      this.run.smear({
        ...{ plane: from, size, width: plane.width, height: plane.height, weight, sums },
        ...{ field, gridWidth: grid.width, gridHeight: grid.height },
        ...{ perX: 1 / (grid.step * acrossX), perY: 1 / (grid.step * acrossY) },
        ...{ scaleX: scale * acrossX, scaleY: scale * acrossY },
      });
      from += plane.bytes;
      sums += (plane.bytes / size) * 4;
    }
    this.total += weight;
    this.arena.release(mark);
  }

  /** The mean of all that was added, written to `out`. */
  end(out: Uint8Array): Uint8Array {
    const { layout } = this.format!;
    const count = out.length / bytesPerSample(layout);
    const mark = this.arena.mark();
    const target = this.arena.take(out.length);
    const sums = new Float32Array(this.arena.memory.buffer, this.sums, count);
    for (let i = 0; i < count; i++) sums[i]! /= this.total;
    this.run.gathered(this.sums, count, bytesPerSample(layout), target);
    out.set(new Uint8Array(this.arena.memory.buffer, target, out.length));
    this.arena.release(mark);
    return out;
  }
}

const STILL: MotionGrid = { width: 1, height: 1, step: 1, vectors: new Float32Array(2) };

/** The motion at a moment in between. */
export function motionOfInstant({ width, height, shift, vectors }: Instant): MotionGrid {
  const between = new Float32Array(2 * width * height);
  // From where it is in the first picture to where it is in the second.
  for (let i = 0; i < width * height; i++) {
    between[2 * i] = vectors[4 * i + 2]! - vectors[4 * i]!;
    between[2 * i + 1] = vectors[4 * i + 3]! - vectors[4 * i + 1]!;
  }
  return { width, height, step: 2 ** shift, vectors: between };
}

/** The motion at the first frame of a pair. */
export const motionOfPair = ([flow]: PairFlow): MotionGrid => {
  const { width, height, shift, forward } = flow!;
  return { width, height, step: 2 ** shift, vectors: forward.flow };
};

/** Pixels that nine in ten points move by less than, from one source frame to the next. */
export function usualReach({ vectors, step }: MotionGrid): number {
  const every = Math.max(1, Math.floor(vectors.length / 2 / 4096));
  const ways: number[] = [];
  for (let i = 0; i < vectors.length / 2; i += every) ways.push(Math.hypot(vectors[2 * i]!, vectors[2 * i + 1]!));
  return step * ways.sort((a, b) => a - b)[Math.floor(ways.length * 0.9)]!;
}

const COARSE = 16;

/** A common motion of the whole picture as a grid: a shift, growth and turn about its centre. */
export function motionOfCamera(
  { x, y, push, roll }: CameraMotion,
  { width, height }: { readonly width: number; readonly height: number },
): MotionGrid {
  const [across, down] = [Math.ceil(width / COARSE), Math.ceil(height / COARSE)];
  const vectors = new Float32Array(2 * across * down);
  const turn = (roll * Math.PI) / 180;
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) {
      const [px, py] = [(i + 0.5) * COARSE - width / 2, (j + 0.5) * COARSE - height / 2];
      const at = 2 * (j * across + i);
      vectors[at] = (x * width + push * px - turn * py) / COARSE;
      vectors[at + 1] = (y * width + push * py + turn * px) / COARSE;
    }
  return { width: across, height: down, step: COARSE, vectors };
}
