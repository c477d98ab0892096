import { planeSizes, type PixelLayout } from './pixel-format.js';

/** Colour tags as ISO/IEC 23091-2 code points are commonly named; `undefined` where the file says nothing. */
export interface ColourTags {
  readonly range: 'limited' | 'full' | undefined;
  readonly matrix: string | undefined;
  readonly primaries: string | undefined;
  readonly transfer: string | undefined;
  readonly chromaLocation: string | undefined;
}

export const NO_COLOUR_TAGS: ColourTags = { range: undefined, matrix: undefined, primaries: undefined, transfer: undefined, chromaLocation: undefined };

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

/** Black in a format: luma at its floor, colour in the middle, alpha opaque. */
export function blackFrame(format: FrameFormat): Frame {
  const { layout, width, height } = format;
  const planes = planeSizes(layout, width, height);
  const data = new Uint8Array(planes.reduce((sum, p) => sum + p.bytes, 0));
  const top = 2 ** layout.bitDepth - 1;
  const floor = layout.model === 'rgb' || format.colour.range === 'full' ? 0 : 16 * 2 ** (layout.bitDepth - 8);
  let offset = 0;
  planes.forEach((plane, i) => {
    const isAlpha = layout.alpha && i === planes.length - 1;
    const isChroma = layout.model === 'yuv' && (i === 1 || i === 2);
    const value = isAlpha ? top : isChroma ? 2 ** (layout.bitDepth - 1) : floor;
    if (layout.bitDepth > 8) new Uint16Array(data.buffer, offset, plane.bytes / 2).fill(value);
    else data.fill(value, offset, offset + plane.bytes);
    offset += plane.bytes;
  });
  return { format, data };
}
