import {
  blackCodes,
  bytesPerSample,
  lumaWeights,
  planeSizes,
  type Frame,
  type FrameFormat,
} from '@idle-bend/core/frame';
import { instantiate } from './instantiate.js';
import type { KernelCalls } from './kernel-calls.js';

/** How much of a 15-bit weight a fraction is. */
const WEIGHT_ONE = 32768;
const PAGE = 65536;

/**
 * The pixel kernels over one WebAssembly memory. One instance to a thread; calls do not overlap. The memory grows to
 * the largest picture seen and stays.
 */
export class Kernels {
  private readonly memory: WebAssembly.Memory;
  private readonly run: KernelCalls;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: 1, maximum: 32768 });
    this.run = instantiate(module, this.memory);
  }

  /**
   * Linear blend of two frames of one format: a·(1−fraction) + b·fraction, rounded to the nearest sample value, in the
   * coded (not linear-light) domain. Weights have 15 bits. Writes into `out` (as long as the frames) and returns it.
   * Throws `RangeError` when sizes differ or the fraction leaves 0…1.
   */
  blend(a: Frame, b: Frame, fraction: number, out: Uint8Array): Uint8Array {
    const bytes = a.data.length;
    if (b.data.length !== bytes || out.length !== bytes)
      throw new RangeError(`frames of ${bytes}, ${b.data.length} and ${out.length} bytes cannot be blended`);
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
    if (layout.bitDepth !== 8 || layout.chromaShiftX !== 1 || layout.chromaShiftY !== 1)
      throw new RangeError('only 8-bit 4:2:0 frames can be shown');
    const pixels = width * height;
    const chroma = ((width + 1) >> 1) * ((height + 1) >> 1);
    const rgba = PAGE + aligned(frame.data.length);
    this.view(aligned(frame.data.length) + pixels * 4).set(frame.data, PAGE);
    this.run.yuv420ToRgba({
      ...{ y: PAGE, u: PAGE + pixels, v: PAGE + pixels + chroma, out: rgba, width, height },
      ...rgbCoefficients(frame.format),
    });
    out.set(this.view(0).subarray(rgba, rgba + pixels * 4));
    return out;
  }

  /**
   * A picture laid into one of `format`, which is of the same layout: at an offset (x, y) from its middle, in pixels, it shows the picture at
   * `matrix` · (x, y) + `shift` from the picture's own. Up to a pixel beyond its edges the picture is as they are, further out there is black.
   * Much smaller ones are halved first, so that nothing is skipped. Writes into `out`, a frame's bytes of `format`, and returns it; outside
   * of `part` what is written means nothing.
   */
  place(
    picture: Frame,
    format: FrameFormat,
    { matrix, shift }: Placing,
    out: Uint8Array,
    part: Part = WHOLE,
  ): Uint8Array {
    const { layout } = format;
    const size = bytesPerSample(layout);
    const room = aligned(picture.data.length);
    this.view(room + aligned(out.length)).set(picture.data, PAGE);
    const black = blackCodes(format);
    const from = planeSizes(layout, picture.format.width, picture.format.height);
    const halvings = halvingsOf(matrix);
    let [at, target] = [PAGE, PAGE + room];
    planeSizes(layout, format.width, format.height).forEach((plane, i) => {
      // Of a coarser plane the same steps are fewer samples.
      const [fineX, fineY] = [from[i]!.width / picture.format.width, from[i]!.height / picture.format.height];
      let [width, height] = [from[i]!.width, from[i]!.height];
      for (let n = 0; n < halvings; n++) {
        this.run.shrink(at, size, width, height, at);
        [width, height] = [(width + 1) >> 1, (height + 1) >> 1];
      }
      const [scaleX, scaleY] = [fineX / 2 ** halvings, fineY / 2 ** halvings];
      const [outX, outY] = [plane.width / format.width, plane.height / format.height];
      const [a, b, c, d] = matrix;
      this.run.place({
        ...{ plane: at, size, width, height },
        ...{ a: (a * scaleX) / outX, b: (b * scaleX) / outY, c: (c * scaleY) / outX, d: (d * scaleY) / outY },
        ...{ tx: shift[0] * scaleX, ty: shift[1] * scaleY },
        ...{ out: target, outWidth: plane.width, outHeight: plane.height, black: black[i]! },
        ...{ left: Math.floor(part.left * plane.width), right: Math.ceil(part.right * plane.width) },
        ...{ top: Math.floor(part.top * plane.height), bottom: Math.ceil(part.bottom * plane.height) },
      });
      at += from[i]!.bytes;
      target += plane.bytes;
    });
    out.set(this.view(0).subarray(PAGE + room, PAGE + room + out.length));
    return out;
  }

  /**
   * A picture whose samples are means over `length` of its pixels about each, along a line at so many degrees: 0 along rows, 90 along
   * columns, 45 from the upper left to the lower right. A length of one pixel changes nothing. Writes into `out`, which may be the
   * picture's own bytes, and returns it.
   */
  streak({ data, format }: Frame, length: number, degrees: number, out: Uint8Array): Uint8Array {
    const size = bytesPerSample(format.layout);
    const [across, downwards] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
    const down = Math.abs(downwards) > Math.abs(across);
    const slope = down ? across / downwards : downwards / across;
    const isSlanted = Math.abs(slope) > 1e-6;
    const pixels = Math.min(length, 2000) * Math.max(Math.abs(across), Math.abs(downwards));
    const planes = planeSizes(format.layout, format.width, format.height).map((plane) => {
      const { width, height } = plane;
      // Of a coarser plane the same stretch is fewer samples, and the same line may lie at another angle.
      const [wide, high] = [width / format.width, height / format.height];
      const own = slope * (down ? wide / high : high / wide);
      const spare = isSlanted ? 2 * Math.ceil((Math.abs(own) * ((down ? height : width) - 1)) / 2) : 0;
      return {
        ...plane,
        slope: own,
        samples: Math.max(1, pixels * (down ? high : wide)),
        sheared: (down ? width : height) + spare,
      };
    });
    const room = aligned(data.length);
    const widest = Math.max(...planes.map(({ width, sheared }) => (down ? sheared : width)));
    const most = Math.max(
      ...planes.map(({ width, height, sheared }) => aligned((down ? height : width) * sheared * size)),
    );
    const [upright, streaked] = [PAGE + 2 * room, PAGE + 2 * room + (isSlanted ? most : 0)];
    const sums = streaked + (isSlanted ? most : 0);
    this.view(sums - PAGE + 16 * widest + 4 * 4100).set(data, PAGE);
    let at = PAGE;
    for (const { width, height, bytes, slope: own, samples, sheared } of planes) {
      const along = { size, down: down ? 1 : 0 };
      const streaks = { ...along, length: samples, sums };
      if (isSlanted) {
        const [w, h] = down ? [sheared, height] : [width, sheared];
        const outSize = down ? width : height;
        const shears = { ...along, places: sums };
        this.run.shear({ ...shears, plane: at, width, height, slope: own, out: upright, outSize: sheared });
        this.run.streak({ ...streaks, plane: upright, width: w, height: h, out: streaked });
        this.run.shear({ ...shears, plane: streaked, width: w, height: h, slope: -own, out: at + room, outSize });
      } else this.run.streak({ ...streaks, plane: at, width, height, out: at + room });
      at += bytes;
    }
    out.set(this.view(0).subarray(PAGE + room, PAGE + room + out.length));
    return out;
  }

  /** The checksum of a picture's bytes: CRC-32 (ISO 3309) as eight hexadecimal digits. */
  checksum(data: Uint8Array): string {
    this.view(data.length).set(data, PAGE);
    return (this.run.checksum(PAGE, data.length) >>> 0).toString(16).padStart(8, '0');
  }

  /** The memory's bytes, grown to hold `bytes` past the first page. A growth makes older views empty, so take one afresh. */
  private view(bytes: number): Uint8Array {
    const missing = PAGE + bytes - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return new Uint8Array(this.memory.buffer);
  }
}

/** How a picture is laid into another: from a place there to a place in it, both from their middles, in pixels. */
export interface Placing {
  /** Row by row. */
  readonly matrix: readonly [number, number, number, number];
  readonly shift: readonly [x: number, y: number];
}

/** A part of a picture, in shares of its width and height. */
export interface Part {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

const WHOLE: Part = { left: 0, right: 1, top: 0, bottom: 1 };

/** How often a picture is halved before it is laid: a step in the other is then less than two of its samples. */
function halvingsOf([a, b, c, d]: Placing['matrix']): number {
  const step = Math.min(Math.hypot(a, c), Math.hypot(b, d));
  return step >= 2 ? Math.floor(Math.log2(step)) : 0;
}

const aligned = (bytes: number) => (bytes + 15) & ~15;

/** Fixed point, 16 bits: of luma, of red and green from V, of green and blue from U. */
function rgbCoefficients(format: FrameFormat) {
  const { colour } = format;
  const [kr, kb] = lumaWeights(format);
  const kg = 1 - kr - kb;
  const full = colour.range === 'full';
  const [lumaGain, chromaGain] = full ? [1, 1] : [255 / 219, 255 / 224];
  const fixed = (x: number) => Math.round(x * 65536);
  return {
    offsetY: full ? 0 : 16,
    ky: fixed(lumaGain),
    krv: fixed(2 * (1 - kr) * chromaGain),
    kgu: fixed(((2 * (1 - kb) * kb) / kg) * chromaGain),
    kgv: fixed(((2 * (1 - kr) * kr) / kg) * chromaGain),
    kbu: fixed(2 * (1 - kb) * chromaGain),
  };
}
