import type { ColourConversion, LightGain } from '@idle-bend/core/colour';
import { bytesPerSample, frameBytes, planeSizes, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import { Arena } from './flow/arena.js';
import { instantiate } from './instantiate.js';
import type { KernelCalls } from './kernel-calls.js';

/** Rows that are worked on at once: two of luma share one of chroma at most. */
const ROWS = 2;

/** How codes become numbers, luma 0 … 1 and chroma −½ … ½, and back (ITU-T H.273, 8.3). */
interface Scale {
  readonly luma: readonly [offset: number, scale: number];
  readonly chroma: readonly [offset: number, scale: number];
}

function scaleOf({ layout, colour }: FrameFormat): Scale {
  const { bitDepth } = layout;
  const top = 2 ** bitDepth - 1;
  const unit = 2 ** (bitDepth - 8);
  const middle = 2 ** (bitDepth - 1);
  const full = layout.model === 'rgb' || colour.range === 'full';
  return full
    ? { luma: [0, top], chroma: [middle, top] }
    : { luma: [16 * unit, 219 * unit], chroma: [middle, 224 * unit] };
}

/** Brings pictures from one colour space, depth and chroma sampling into another: the one place where that happens. One instance to a thread. */
export class Converter {
  private readonly arena = new Arena();
  private readonly run: KernelCalls;
  private held: { readonly conversion: ColourConversion; readonly plan: Plan } | undefined;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.run = instantiate(module, this.arena.memory);
  }

  /**
   * Writes a frame into `out`, as long as one of the conversion's format. Alpha is kept, at the new depth; where there was none it is
   * opaque. Throws `RangeError` for a frame of another format.
   */
  convert(frame: Frame, conversion: ColourConversion, out: Uint8Array): Uint8Array {
    const { from, to } = conversion;
    const [bytesIn, bytesOut] = [
      frameBytes(from.layout, from.width, from.height),
      frameBytes(to.layout, to.width, to.height),
    ];
    if (frame.data.length !== bytesIn || out.length !== bytesOut)
      throw new RangeError(
        `a frame of ${frame.data.length} bytes into ${out.length}; the conversion is of ${bytesIn} into ${bytesOut}`,
      );
    if (this.held?.conversion !== conversion) {
      this.arena.release(Arena.FIRST);
      this.held = { conversion, plan: this.planned(conversion) };
    }
    const { plan } = this.held;
    const mark = this.arena.mark();
    const [source, target] = [this.arena.take(bytesIn), this.arena.take(bytesOut)];
    new Uint8Array(this.arena.memory.buffer).set(frame.data, source);
    this.rows(conversion, plan, planesAt(from, source), planesAt(to, target));
    out.set(new Uint8Array(this.arena.memory.buffer, target, bytesOut));
    this.arena.release(mark);
    return out;
  }

  private planned({ from, to, weights, light }: ColourConversion): Plan {
    const put = (values: ArrayLike<number>) => {
      const place = this.arena.take(values.length * 4);
      new Float32Array(this.arena.memory.buffer, place, values.length).set(values);
      return place;
    };
    const [kr, kb] = weights.from;
    const kg = 1 - kr - kb;
    const [wr, wb] = weights.to;
    const block = new Float32Array(26);
    block.set([2 * (1 - kr), (2 * (1 - kb) * kb) / kg, (2 * (1 - kr) * kr) / kg, 2 * (1 - kb)], 4);
    block.set([wr, 1 - wr - wb, wb, 1 / (2 * (1 - wb)), 1 / (2 * (1 - wr))], 12);
    block.set(light?.primaries ?? [], 17);
    const gains = (list: readonly LightGain[] = []) =>
      list.map(({ weights: w, table }) => ({ weights: w ?? ([0, 0, 0] as const), table: put(table) }));
    return {
      block: put(block),
      toLight: light ? put(light.toLight) : 0,
      fromLight: light ? put(light.fromLight) : 0,
      before: gains(light?.before),
      after: gains(light?.after),
      rows: Array.from({ length: ROWS }, () =>
        [0, 1, 2].map(() => this.arena.take(4 * Math.max(from.width, to.width))),
      ),
    };
  }

  /** Two rows of luma at a time, and the chroma that belongs to them. */
  private rows(
    { from, to, colours, light }: ColourConversion,
    plan: Plan,
    source: readonly PlaceOfPlane[],
    target: readonly PlaceOfPlane[],
  ): void {
    const { run } = this;
    const [input, output] = [scaleOf(from), scaleOf(to)];
    const [sizeIn, sizeOut] = [bytesPerSample(from.layout), bytesPerSample(to.layout)];
    const { width, height } = from;
    const top = 2 ** to.layout.bitDepth - 1;
    const site = siteOf(from);
    const left = siteOf(to).x === 0;
    const shared = to.layout.model === 'yuv' ? to.layout.chromaShiftY : 0;
    for (let y = 0; y < height; y += ROWS) {
      const count = Math.min(ROWS, height - y);
      for (let n = 0; n < count; n++) {
        const [a, b, c] = plan.rows[n] as [number, number, number];
        // Green, blue, red are stored; red, green, blue are worked on.
        const isRgb = from.layout.model === 'rgb';
        run.readRow(source[0]!.at, sizeIn, width, y + n, input.luma[0], 1 / input.luma[1], isRgb ? b : a);
        if (isRgb) {
          run.readRow(source[1]!.at, sizeIn, width, y + n, input.luma[0], 1 / input.luma[1], c);
          run.readRow(source[2]!.at, sizeIn, width, y + n, input.luma[0], 1 / input.luma[1], a);
        } else if (from.layout.model === 'gray') this.clear(b, c, width);
        else
          for (const [i, row] of [b, c].entries()) {
            const { at, width: w, height: h } = source[1 + i]!;
            const { chromaShiftX, chromaShiftY } = from.layout;
            run.readChromaRow({
              ...{ plane: at, size: sizeIn, width: w, height: h, fullWidth: width, row: y + n, out: row },
              ...{ shiftX: chromaShiftX, shiftY: chromaShiftY, siteX: site.x, siteY: site.y },
              ...{ offset: input.chroma[0], scale: 1 / input.chroma[1] },
            });
          }
        if (colours) this.recolour(plan, light, a, b, c, width, from.layout.model, to.layout.model);
        const rgbOut = to.layout.model === 'rgb';
        const [offset, scale] = output.luma;
        const write = (row: number, plane: number) =>
          run.writeRow({ row, count: width, plane, size: sizeOut, index: y + n, offset, scale, top });
        write(rgbOut ? b : a, target[0]!.at);
        if (rgbOut) {
          write(c, target[1]!.at);
          write(a, target[2]!.at);
        }
      }
      if (to.layout.model !== 'yuv') continue;
      for (let n = 0; n < count; n += 1 << shared)
        for (const i of [1, 2]) {
          const [first, second] = [plan.rows[n]![i]!, plan.rows[shared ? Math.min(count - 1, n + 1) : n]![i]!];
          const { at, width: w } = target[i]!;
          run.writeChromaRow({
            ...{ first, second, fullWidth: width, shiftX: to.layout.chromaShiftX, left: left ? 1 : 0 },
            ...{ plane: at, size: sizeOut, width: w, index: (y + n) >> shared },
            ...{ offset: output.chroma[0], scale: output.chroma[1], top },
          });
        }
    }
    if (to.layout.alpha) this.alpha(from, to, source, target);
  }

  private recolour(
    plan: Plan,
    light: ColourConversion['light'],
    a: number,
    b: number,
    c: number,
    count: number,
    before: string,
    after: string,
  ): void {
    const { run } = this;
    if (before !== 'rgb') run.toRgb(a, b, c, count, plan.block);
    if (light) {
      for (const row of [a, b, c]) run.codesToLight(row, count, plan.toLight);
      const gain = ({ weights: [wr, wg, wb], table }: Plan['before'][number]) =>
        run.gain({ r: a, g: b, b: c, count, wr, wg, wb, table });
      plan.before.forEach(gain);
      run.mixPrimaries(a, b, c, count, plan.block);
      plan.after.forEach(gain);
      for (const row of [a, b, c]) run.lightToCodes(row, count, plan.fromLight, light.clipped ? 1 : 0);
    }
    if (after !== 'rgb') run.fromRgb(a, b, c, count, plan.block);
  }

  private clear(b: number, c: number, count: number): void {
    for (const row of [b, c]) new Float32Array(this.arena.memory.buffer, row, count).fill(0);
  }

  private alpha(
    from: FrameFormat,
    to: FrameFormat,
    source: readonly PlaceOfPlane[],
    target: readonly PlaceOfPlane[],
  ): void {
    const [row] = [this.held!.plan.rows[0]![0]!] as const;
    const [topIn, topOut] = [2 ** from.layout.bitDepth - 1, 2 ** to.layout.bitDepth - 1];
    if (!from.layout.alpha) new Float32Array(this.arena.memory.buffer, row, from.width).fill(1);
    for (let y = 0; y < from.height; y++) {
      if (from.layout.alpha)
        this.run.readRow(source.at(-1)!.at, bytesPerSample(from.layout), from.width, y, 0, 1 / topIn, row);
      this.run.writeRow({
        ...{ row, count: from.width, plane: target.at(-1)!.at, size: bytesPerSample(to.layout), index: y },
        ...{ offset: 0, scale: topOut, top: topOut },
      });
    }
  }
}

interface Plan {
  readonly block: number;
  readonly toLight: number;
  readonly fromLight: number;
  readonly before: readonly { readonly weights: readonly [number, number, number]; readonly table: number }[];
  readonly after: readonly { readonly weights: readonly [number, number, number]; readonly table: number }[];
  readonly rows: readonly (readonly number[])[];
}

interface PlaceOfPlane {
  readonly at: number;
  readonly width: number;
  readonly height: number;
}

function planesAt({ layout, width, height }: FrameFormat, start: number): PlaceOfPlane[] {
  let at = start;
  return planeSizes(layout, width, height).map((plane) => {
    const place = { at, width: plane.width, height: plane.height };
    at += plane.bytes;
    return place;
  });
}

/** Where the first chroma sample lies, in luma samples: beside the first one and between two rows, unless the picture says otherwise (H.273, figure 10). */
function siteOf({ layout, colour }: FrameFormat): { readonly x: number; readonly y: number } {
  const centred = colour.chromaLocation === 'center';
  const atTop = colour.chromaLocation === 'topleft' || colour.chromaLocation === 'top';
  const between = (shift: number) => ((1 << shift) - 1) / 2;
  return {
    x: layout.chromaShiftX === 0 ? 0 : centred || layout.chromaShiftX > 1 ? between(layout.chromaShiftX) : 0,
    y: layout.chromaShiftY === 0 || atTop ? 0 : between(layout.chromaShiftY),
  };
}
