import type { ColourConversion } from '@idle-bend/core/colour';
import {
  blackFrame,
  bytesPerSample,
  frameBytes,
  planeSizes,
  type ColourTags,
  type Frame,
  type FrameFormat,
} from '@idle-bend/core/frame';
import type { Converter } from '@idle-bend/kernels';
import type { FrameProvider } from './frame-provider.js';

/** Where a picture lies in a larger one; around it is black. */
export interface Canvas {
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly top: number;
}

export interface Handover {
  /** Nothing where pictures are in the right space and layout already. */
  readonly conversion: ColourConversion | undefined;
  readonly canvas?: Canvas | undefined;
  /** What the pictures are tagged with; what the conversion makes them without it. */
  readonly tags?: ColourTags | undefined;
}

/** Frames kept as they were handed over: of slow motion the same few are wanted again and again. */
const KEPT = 8;

/**
 * A provider whose pictures are handed over in another colour space, depth, sampling or frame. Nothing past it knows of the source's own.
 * Where there is nothing to change a picture is the very one of the provider behind it.
 */
export class ConvertedProvider implements FrameProvider {
  readonly format: FrameFormat;
  readonly frameCount: number;
  private readonly converted: FrameFormat;
  private readonly kept = new Map<number, Uint8Array>();
  private readonly free: Uint8Array[] = [];
  private readonly black: Uint8Array | undefined;

  constructor(
    private readonly inner: FrameProvider,
    private readonly handover: Handover,
    private readonly converter: Converter,
  ) {
    const { conversion, canvas, tags } = handover;
    const format = conversion?.to ?? inner.format;
    this.converted = { ...format, colour: tags ?? format.colour };
    this.format = canvas ? { ...this.converted, width: canvas.width, height: canvas.height } : this.converted;
    this.frameCount = inner.frameCount;
    this.black = canvas && blackFrame(this.format).data;
  }

  async frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    const { conversion } = this.handover;
    const retagged = (data: Uint8Array) => ({ format: this.format, data });
    if (!conversion && !this.black) return (await this.inner.frames(wanted)).map(({ data }) => retagged(data));
    const missing = [...new Set(wanted)].filter((n) => !this.kept.has(n));
    const found = missing.length > 0 ? await this.inner.frames(missing) : [];
    missing.forEach((n, i) => this.keep(n, found[i]!, wanted));
    return wanted.map((n) => {
      const data = this.kept.get(n)!;
      // Most recently used last.
      this.kept.delete(n);
      this.kept.set(n, data);
      return retagged(data);
    });
  }

  private keep(n: number, frame: Frame, wanted: readonly number[]): void {
    for (const [old, data] of this.kept) {
      if (this.kept.size < Math.max(KEPT, wanted.length)) break;
      if (wanted.includes(old)) continue;
      this.kept.delete(old);
      this.free.push(data);
    }
    const { conversion } = this.handover;
    const { layout, width, height } = this.format;
    const out = this.free.pop() ?? new Uint8Array(frameBytes(layout, width, height));
    if (!this.black) this.converter.convert(frame, conversion!, out);
    else {
      const { layout: own, width: w, height: h } = this.converted;
      const picture = conversion
        ? this.converter.convert(frame, conversion, new Uint8Array(frameBytes(own, w, h)))
        : frame.data;
      out.set(this.black);
      layInto({ format: this.format, data: out }, { format: this.converted, data: picture }, this.handover.canvas!);
    }
    this.kept.set(n, out);
  }
}

/** Copies a picture into a larger one of its layout; its place is rounded down to where chroma has samples. */
function layInto(canvas: Frame, { format, data }: Frame, { left, top }: Canvas): void {
  const { layout } = format;
  const size = bytesPerSample(layout);
  const own = planeSizes(layout, format.width, format.height);
  let [from, to] = [0, 0];
  planeSizes(layout, canvas.format.width, canvas.format.height).forEach((plane, i) => {
    const isChroma = layout.model === 'yuv' && (i === 1 || i === 2);
    const [x, y] = isChroma
      ? [left >> layout.chromaShiftX, top >> layout.chromaShiftY]
      : [left & -(1 << layout.chromaShiftX), top & -(1 << layout.chromaShiftY)];
    const { width, height, bytes } = own[i]!;
    const across = Math.min(width, plane.width - x) * size;
    for (let row = 0; row < Math.min(height, plane.height - y); row++)
      canvas.data.set(
        data.subarray(from + row * width * size, from + row * width * size + across),
        to + ((y + row) * plane.width + x) * size,
      );
    from += bytes;
    to += plane.bytes;
  });
}
