import { type PixelLayout, planeSizes } from './pixel-format.js';

/** Colour tags as ISO/IEC 23091-2 code points are commonly named; `undefined` where the file says nothing. */
export interface ColourTags {
  readonly range: 'limited' | 'full' | undefined;
  readonly matrix: string | undefined;
  readonly primaries: string | undefined;
  readonly transfer: string | undefined;
  readonly chromaLocation: string | undefined;
}

export const NO_COLOUR_TAGS: ColourTags = {
  range: undefined,
  matrix: undefined,
  primaries: undefined,
  transfer: undefined,
  chromaLocation: undefined,
};

/** Everything about a picture but its samples. Width and height in samples as stored; the pixel aspect is width : height of one. */
export interface FrameFormat {
  readonly width: number;
  readonly height: number;
  readonly layout: PixelLayout;
  readonly colour: ColourTags;
  readonly pixelAspect: { readonly num: number; readonly den: number };
}

/** One picture: planes one after another in `data`, each `width × height` samples without padding (see `planeSizes`). */
export interface Frame {
  readonly format: FrameFormat;
  readonly data: Uint8Array;
}

/** The code of black in every plane of a format: luma at its floor, colour in the middle, alpha opaque. */
export function blackCodes({
  layout: { model, bitDepth, alpha },
  colour,
}: Pick<FrameFormat, 'layout' | 'colour'>): number[] {
  const floor = model === 'rgb' || colour.range === 'full' ? 0 : 16 * 2 ** (bitDepth - 8);
  const middle = 2 ** (bitDepth - 1);
  const codes = model === 'gray' ? [floor] : model === 'rgb' ? [floor, floor, floor] : [floor, middle, middle];
  return alpha ? [...codes, 2 ** bitDepth - 1] : codes;
}

/** Black in a format. */
export function blackFrame(format: FrameFormat): Frame {
  const { layout, width, height } = format;
  const planes = planeSizes(layout, width, height);
  const data = new Uint8Array(planes.reduce((sum, p) => sum + p.bytes, 0));
  const codes = blackCodes(format);
  let offset = 0;
  planes.forEach((plane, i) => {
    const value = codes[i]!;
    if (layout.bitDepth > 8) new Uint16Array(data.buffer, offset, plane.bytes / 2).fill(value);
    else data.fill(value, offset, offset + plane.bytes);
    offset += plane.bytes;
  });
  return { format, data };
}
