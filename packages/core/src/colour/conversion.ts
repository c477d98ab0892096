import { LUMA_WEIGHTS } from '../frame/colour-frame.js';
import type { FrameFormat } from '../frame/frame.js';
import type { PixelLayout } from '../frame/pixel-format.js';
import { type ColourSpace, curveOf, highRangeOf, reelSpaceOf, sameSpace, spaceOf } from './colour-space.js';
import { luminanceWeights, primariesMatrix } from './primaries.js';
import { fromLight, HLG_GAMMA, HLG_PEAK_NITS, rolledOff, toLight, WHITE_NITS } from './transfer.js';

/** What a picture is brought into. */
interface PictureSpace {
  readonly space: ColourSpace;
  readonly layout: PixelLayout;
}

/** Light is scaled by what stands in `table` for its luminance (by these weights), or for its brightest part without weights. */
export interface LightGain {
  readonly weights: readonly [number, number, number] | undefined;
  /** By the fourth root of the light, from 0 to `MAX_ROOT`. */
  readonly table: Float32Array;
}

/**
 * How codes of one space become codes of another, as the kernel that does it wants it told. Without `light` both have the same curve and
 * primaries, and only the matrix and the range differ; without `colours` not even those, and only depth and sampling change.
 */
export interface ColourConversion {
  readonly from: FrameFormat;
  readonly to: FrameFormat;
  readonly colours: boolean;
  /** Luma weights of red and blue, before and after. */
  readonly weights: { readonly from: readonly [number, number]; readonly to: readonly [number, number] };
  readonly light:
    | {
        /** By code from `MIN_CODE` to `MAX_CODE`. */
        readonly toLight: Float32Array;
        readonly before: readonly LightGain[];
        readonly primaries: readonly number[];
        readonly after: readonly LightGain[];
        /** Light beyond 0 … 1 is cut off: it has no place in the standard range. */
        readonly clipped: boolean;
        /** By the fourth root of the light, from 0 to `MAX_ROOT`. */
        readonly fromLight: Float32Array;
      }
    | undefined;
}

const TABLE = 4096;

const [MIN_CODE, MAX_CODE] = [-0.5, 1.5] as const;

/** The fourth root of 10,000 cd/m² by standard white, and a little more. */
const MAX_ROOT = 2.7;

const WEIGHTS: Readonly<Record<ColourSpace['matrix'], readonly [number, number]>> = {
  ...LUMA_WEIGHTS,
  gbr: [0, 0],
};

const byCode = (f: (code: number) => number) =>
  Float32Array.from({ length: TABLE + 1 }, (_, i) => f(MIN_CODE + ((MAX_CODE - MIN_CODE) * i) / TABLE));

const byRoot = (f: (light: number) => number) =>
  Float32Array.from({ length: TABLE + 1 }, (_, i) => f(((MAX_ROOT * i) / TABLE) ** 4));

/** High dynamic range is mastered up to here, cd/m²; what is brighter still is white in the standard range too. */
const MASTERED_NITS = { pq: 4000, hlg: HLG_PEAK_NITS } as const;

/** A space as pictures of a layout can have it: RGB has no matrix and is of full range; what was RGB gets BT.709's matrix and limited range. */
export function spaceIn(space: ColourSpace, { model }: PixelLayout): ColourSpace {
  if (model === 'rgb') return { ...space, matrix: 'gbr', range: 'full' };
  return reelSpaceOf(space);
}

/**
 * How pictures of a format are brought into a space and layout; nothing where they are in both already and pass as they are, bit for bit.
 * Between high dynamic and standard range white is 203 cd/m² (ITU-R BT.2408-7); highlights are rolled off (see `rolledOff`) by their
 * brightest part, so hues stay.
 */
export function conversionOf(from: FrameFormat, { space, layout }: PictureSpace): ColourConversion | undefined {
  const own = spaceOf(from);
  const rightSpace = spaceIn(space, layout);
  const isGrey = from.layout.model === 'gray' && layout.model === 'gray';
  const to: FrameFormat = { ...from, layout, colour: { ...rightSpace, chromaLocation: from.colour.chromaLocation } };
  const same = sameSpace(own, rightSpace) || (isGrey && sameSpace({ ...own, matrix: rightSpace.matrix }, rightSpace));
  if (same && sameLayout(from.layout, layout)) return undefined;
  const weights = { from: WEIGHTS[own.matrix], to: WEIGHTS[rightSpace.matrix] };
  if (same) return { from, to, colours: false, weights, light: undefined };
  const alike = own.primaries === rightSpace.primaries && curveOf(own.transfer) === curveOf(rightSpace.transfer);
  return { from, to, colours: true, weights, light: alike ? undefined : lightOf(own, rightSpace) };
}

const sameLayout = (a: PixelLayout, b: PixelLayout) =>
  a.model === b.model &&
  a.bitDepth === b.bitDepth &&
  a.chromaShiftX === b.chromaShiftX &&
  a.chromaShiftY === b.chromaShiftY &&
  a.alpha === b.alpha;

function lightOf(from: ColourSpace, to: ColourSpace): ColourConversion['light'] {
  const [high, highAfter] = [highRangeOf(from), highRangeOf(to)];
  const peak = HLG_PEAK_NITS / WHITE_NITS;
  const gains = { before: [] as LightGain[], after: [] as LightGain[] };
  // Between two of them the scene stays the scene.
  const sceneStays = high === 'hlg' && highAfter === 'hlg';
  if (high === 'hlg' && !sceneStays)
    gains.before.push({ weights: luminanceWeights(from.primaries), table: byRoot((y) => peak * y ** (HLG_GAMMA - 1)) });
  if (high && !highAfter) {
    const brightest = MASTERED_NITS[high] / WHITE_NITS;
    gains.before.push({ weights: undefined, table: byRoot((l) => (l === 0 ? 1 : rolledOff(l, brightest) / l)) });
  }
  if (highAfter === 'hlg' && !sceneStays)
    gains.after.push({
      weights: luminanceWeights(to.primaries),
      table: byRoot((y) => (y === 0 ? 0 : (y / peak) ** (1 / HLG_GAMMA) / y)),
    });
  return {
    toLight: byCode(toLight(from.transfer)),
    ...gains,
    primaries: primariesMatrix(from.primaries, to.primaries),
    clipped: high !== undefined && highAfter === undefined,
    fromLight: byRoot(fromLight(to.transfer)),
  };
}
