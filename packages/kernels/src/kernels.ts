import { bytesPerSample, lumaWeights, planeSizes, type Frame, type FrameFormat } from '@idle-bend/core';

interface Exports {
  blend8(a: number, b: number, out: number, count: number, weight: number): void;
  blend16(a: number, b: number, out: number, count: number, weight: number): void;
  yuv420ToRgba(...args: number[]): void;
  place(...args: number[]): void;
}

/** How much of a 15-bit weight a fraction is. */
const WEIGHT_ONE = 32768;
const PAGE = 65536;

/**
 * The pixel kernels over one WebAssembly memory. One instance to a thread; calls do not overlap. The memory grows to
 * the largest picture seen and stays.
 */
export class Kernels {
  private readonly memory: WebAssembly.Memory;
  private readonly run: Exports;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: 1, maximum: 32768 });
    this.run = new WebAssembly.Instance(module, { env: { memory: this.memory } }).exports as unknown as Exports;
  }

  /**
   * Linear blend of two frames of one format: a·(1−fraction) + b·fraction, rounded to the nearest sample value, in the
   * coded (not linear-light) domain. Weights have 15 bits. Writes into `out` (as long as the frames) and returns it.
   * Throws `RangeError` when sizes differ or the fraction leaves 0…1.
   */
  blend(a: Frame, b: Frame, fraction: number, out: Uint8Array): Uint8Array {
    const bytes = a.data.length;
    if (b.data.length !== bytes || out.length !== bytes) throw new RangeError(`frames of ${bytes}, ${b.data.length} and ${out.length} bytes cannot be blended`);
    if (!(fraction >= 0 && fraction <= 1)) throw new RangeError(`the fraction ${fraction} is outside 0 to 1`);
    const at = aligned(bytes);
    const view = this.view(3 * at);
    view.set(a.data, PAGE);
    view.set(b.data, PAGE + at);
    const size = bytesPerSample(a.format.layout);
    const blend = size === 1 ? this.run.blend8 : this.run.blend16;
    blend(PAGE, PAGE + at, PAGE + 2 * at, bytes / size, Math.round(fraction * WEIGHT_ONE));
    out.set(this.view(0).subarray(PAGE + 2 * at, PAGE + 2 * at + bytes));
    return out;
  }

  /**
   * An 8-bit 4:2:0 frame as RGBA for a screen, 4·width·height bytes into `out`. Matrix and range come from the colour
   * tags; untagged pictures are taken as BT.709 from 720 lines up and BT.601 below, limited range.
   */
  toRgba(frame: Frame, out: Uint8ClampedArray): Uint8ClampedArray {
    const { width, height, layout } = frame.format;
    if (layout.bitDepth !== 8 || layout.chromaShiftX !== 1 || layout.chromaShiftY !== 1) throw new RangeError('only 8-bit 4:2:0 frames can be shown');
    const pixels = width * height;
    const chroma = ((width + 1) >> 1) * ((height + 1) >> 1);
    const rgba = PAGE + aligned(frame.data.length);
    this.view(aligned(frame.data.length) + pixels * 4).set(frame.data, PAGE);
    this.run.yuv420ToRgba(PAGE, PAGE + pixels, PAGE + pixels + chroma, rgba, width, height, ...rgbCoefficients(frame.format));
    out.set(this.view(0).subarray(rgba, rgba + pixels * 4));
    return out;
  }

  /**
   * The picture closer by `scale` and turned by `angle` (radians, clockwise) about its middle, then moved by shares of its width and
   * height, into `out`. What is beyond its edges is as they are.
   */
  place({ format, data }: Frame, { scale, angle = 0, x, y }: Placing, out: Uint8Array): Uint8Array {
    const size = bytesPerSample(format.layout);
    const at = aligned(data.length);
    this.view(2 * at).set(data, PAGE);
    let from = PAGE;
    for (const { width, height, bytes } of planeSizes(format.layout, format.width, format.height)) {
      // Where chroma is coarser one way than the other, a turn is no turn of its samples.
      const uneven = width / format.width / (height / format.height);
      const [cos, sin] = [Math.cos(angle) / scale, Math.sin(angle) / scale];
      this.run.place(from, size, width, height, cos, sin * uneven, -sin / uneven, cos, x * width, y * height, from + at);
      from += bytes;
    }
    out.set(this.view(0).subarray(PAGE + at, PAGE + at + data.length));
    return out;
  }

  /** The memory's bytes, grown to hold `bytes` past the first page. A growth makes older views empty, so take one afresh. */
  private view(bytes: number): Uint8Array {
    const missing = PAGE + bytes - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return new Uint8Array(this.memory.buffer);
  }
}

/** How a picture is laid over where it was. */
export interface Placing {
  readonly scale: number;
  readonly angle?: number;
  readonly x: number;
  readonly y: number;
}

const aligned = (bytes: number) => (bytes + 15) & ~15;

function rgbCoefficients(format: FrameFormat): number[] {
  const { colour } = format;
  const [kr, kb] = lumaWeights(format);
  const kg = 1 - kr - kb;
  const full = colour.range === 'full';
  const [lumaGain, chromaGain] = full ? [1, 1] : [255 / 219, 255 / 224];
  const fixed = (x: number) => Math.round(x * 65536);
  return [
    full ? 0 : 16,
    fixed(lumaGain),
    fixed(2 * (1 - kr) * chromaGain),
    fixed(((2 * (1 - kb) * kb) / kg) * chromaGain),
    fixed(((2 * (1 - kr) * kr) / kg) * chromaGain),
    fixed(2 * (1 - kb) * chromaGain),
  ];
}
