import { blackFrame, type Frame, type FrameFormat } from './frame.js';
import { planeSizes } from './pixel-format.js';

/** Luma weights of the matrices (ITU-R BT.601-7, BT.709-6, BT.2020-2), red and blue. */
export const LUMA_WEIGHTS = {
  bt709: [0.2126, 0.0722],
  smpte170m: [0.299, 0.114],
  bt470bg: [0.299, 0.114],
  bt2020nc: [0.2627, 0.0593],
  bt2020c: [0.2627, 0.0593],
} as const;

/** The weights of red and blue in a format's luma; an untagged picture is BT.709 from 720 lines up and BT.601 below. */
export const lumaWeights = ({
  colour,
  height,
}: Pick<FrameFormat, 'colour' | 'height'>): readonly [red: number, blue: number] =>
  (LUMA_WEIGHTS as Readonly<Record<string, readonly [number, number]>>)[colour.matrix ?? ''] ??
  LUMA_WEIGHTS[height >= 720 ? 'bt709' : 'smpte170m'];

/** One colour all over, red, green and blue 0 … 1 as coded (not linear light); alpha opaque. */
export function colourFrame(format: FrameFormat, [red, green, blue]: readonly [number, number, number]): Frame {
  const frame = blackFrame(format);
  const { layout, width, height } = format;
  const [kr, kb] = lumaWeights(format);
  const luma = kr * red + (1 - kr - kb) * green + kb * blue;
  const most = 2 ** layout.bitDepth - 1;
  const full = format.colour.range === 'full' || layout.model === 'rgb';
  const step = 2 ** (layout.bitDepth - 8);
  const level = (value: number) => Math.round(full ? value * most : (16 + 219 * value) * step);
  const chroma = (value: number) =>
    Math.round(Math.min(most, 2 ** (layout.bitDepth - 1) + value * (full ? most : 224 * step)));
  const values =
    layout.model === 'yuv'
      ? [level(luma), chroma((blue - luma) / (2 * (1 - kb))), chroma((red - luma) / (2 * (1 - kr)))]
      : layout.model === 'rgb'
        ? [level(green), level(blue), level(red)]
        : [level(luma)];
  let offset = 0;
  planeSizes(layout, width, height).forEach(({ bytes }, i) => {
    const value = values[i];
    if (value !== undefined) {
      if (layout.bitDepth > 8) new Uint16Array(frame.data.buffer, offset, bytes / 2).fill(value);
      else frame.data.fill(value, offset, offset + bytes);
    }
    offset += bytes;
  });
  return frame;
}

/** The picture with dark and bright, and every colour and its opposite, in each other's place; alpha stays. */
export function invertInto({ format, data }: Frame, out: Uint8Array): Uint8Array {
  const { layout, width, height } = format;
  const most = 2 ** layout.bitDepth - 1;
  const full = format.colour.range === 'full' || layout.model === 'rgb';
  const limited = (16 + 235) * 2 ** (layout.bitDepth - 8);
  const sizes = planeSizes(layout, width, height);
  const deep = layout.bitDepth > 8;
  const from = deep ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
  const to = deep ? new Uint16Array(out.buffer, out.byteOffset, out.length / 2) : out;
  let at = 0;
  sizes.forEach(({ bytes }, i) => {
    const count = deep ? bytes / 2 : bytes;
    const isAlpha = layout.alpha && i === sizes.length - 1;
    const isChroma = layout.model === 'yuv' && (i === 1 || i === 2);
    const sum = isChroma ? 2 ** layout.bitDepth : full ? most : limited;
    for (let n = at; n < at + count; n++) to[n] = isAlpha ? from[n]! : Math.max(0, Math.min(most, sum - from[n]!));
    at += count;
  });
  return out;
}
