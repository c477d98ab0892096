import { InvalidInput } from '../foundation/errors.js';
import type { ColourTags, FrameFormat } from '../frame/frame.js';

/** How red, green and blue become luma and chroma; `gbr`: they do not. Names as ffmpeg spells the code points of ITU-T H.273. */
const MATRICES = ['bt709', 'smpte170m', 'bt470bg', 'bt2020nc', 'gbr'] as const;

const PRIMARIES = ['bt709', 'smpte170m', 'bt470bg', 'bt2020', 'smpte432'] as const;

const TRANSFERS = [
  'bt709',
  'smpte170m',
  'bt470bg',
  'gamma22',
  'iec61966-2-1',
  'bt2020-10',
  'linear',
  'smpte2084',
  'arib-std-b67',
] as const;

const RANGES = ['limited', 'full'] as const;

/** What a picture's codes mean: everything that is needed to know its colours. */
export interface ColourSpace {
  readonly matrix: (typeof MATRICES)[number];
  readonly primaries: (typeof PRIMARIES)[number];
  readonly transfer: (typeof TRANSFERS)[number];
  readonly range: (typeof RANGES)[number];
}

export const BT709: ColourSpace = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'limited' };

export const BT2100_PQ: ColourSpace = {
  matrix: 'bt2020nc',
  primaries: 'bt2020',
  transfer: 'smpte2084',
  range: 'limited',
};

export const BT2100_HLG: ColourSpace = { ...BT2100_PQ, transfer: 'arib-std-b67' };

/** Other names of the same code points, or of ones that mean the same colours. */
const SAME_AS: Readonly<Record<string, string>> = {
  bt2020c: 'bt2020nc',
  smpte240m: 'smpte170m',
  'bt2020-12': 'bt2020-10',
  fcc: 'smpte170m',
  rgb: 'gbr',
  smpte431: 'smpte432',
};

const known = <T extends string>(value: string | undefined, list: readonly T[]): T | undefined => {
  const name = value === undefined ? undefined : (SAME_AS[value] ?? value);
  return list.find((one) => one === name);
};

/**
 * The space of a picture, what its tags leave unsaid taken by the usual rule: what is said of one part speaks for the others; nothing said
 * is BT.709 from 720 lines up, below that BT.601 (of 625 lines where the height is 576 or 288); RGB is sRGB in full range.
 */
export function spaceOf({ colour, height, layout }: Pick<FrameFormat, 'colour' | 'height' | 'layout'>): ColourSpace {
  const matrix = known(colour.matrix, MATRICES);
  const primaries = known(colour.primaries, PRIMARIES);
  const transfer = known(colour.transfer, TRANSFERS);
  if (layout.model === 'rgb')
    return { matrix: 'gbr', primaries: primaries ?? 'bt709', transfer: transfer ?? 'iec61966-2-1', range: 'full' };
  const wide =
    matrix === 'bt2020nc' || primaries === 'bt2020' || transfer === 'smpte2084' || transfer === 'arib-std-b67';
  const older = height === 576 || height === 288 ? 'bt470bg' : 'smpte170m';
  const said = [matrix, primaries, transfer].find(
    (part): part is 'bt709' | 'smpte170m' | 'bt470bg' => part === 'bt709' || part === 'smpte170m' || part === 'bt470bg',
  );
  const usual = said ?? (height >= 720 ? 'bt709' : older);
  return {
    matrix: matrix === undefined || matrix === 'gbr' ? (wide ? 'bt2020nc' : usual) : matrix,
    primaries: primaries ?? (wide ? 'bt2020' : usual),
    // The curve of BT.601 is that of BT.709.
    transfer: transfer ?? (wide ? 'bt2020-10' : usual === 'bt470bg' ? 'smpte170m' : usual),
    range: colour.range ?? 'limited',
  };
}

/** Tags that say it; where chroma lies is not part of a space. */
export const tagsOf = (space: ColourSpace, chromaLocation?: string): ColourTags => ({ ...space, chromaLocation });

/** Whether the same codes mean the same colours. Curves that differ in name only are one. */
export const sameSpace = (a: ColourSpace, b: ColourSpace): boolean =>
  sameMatrix(a.matrix, b.matrix) &&
  a.primaries === b.primaries &&
  curveOf(a.transfer) === curveOf(b.transfer) &&
  a.range === b.range;

const sameMatrix = (a: ColourSpace['matrix'], b: ColourSpace['matrix']) =>
  a === b || ['smpte170m bt470bg', 'bt470bg smpte170m'].includes(`${a} ${b}`);

/** The curve behind a name: BT.601, BT.709 and BT.2020 have one. */
export const curveOf = (transfer: ColourSpace['transfer']): ColourSpace['transfer'] =>
  transfer === 'smpte170m' || transfer === 'bt2020-10' ? 'bt709' : transfer;

/** Whether brightness is coded for high dynamic range, and how (ITU-R BT.2100). */
export const highRangeOf = ({ transfer }: Pick<ColourTags, 'transfer'>): 'pq' | 'hlg' | undefined =>
  transfer === 'smpte2084' ? 'pq' : transfer === 'arib-std-b67' ? 'hlg' : undefined;

/** What a reel that begins with a picture of a space is in: RGB has a matrix when it is coded as luma and chroma. */
export const reelSpaceOf = (space: ColourSpace): ColourSpace =>
  space.matrix === 'gbr' ? { ...space, matrix: 'bt709', range: 'limited' } : space;

/** A space in a few words. */
export function spaceWords({ matrix, transfer, range }: ColourSpace): string {
  const high = highRangeOf({ transfer });
  const name = { bt709: 'BT.709', smpte170m: 'BT.601', bt470bg: 'BT.601', bt2020nc: 'BT.2020', gbr: 'RGB' }[matrix];
  return `${high ? `BT.2100 ${high.toUpperCase()}` : name}${range === 'full' && matrix !== 'gbr' ? ', full range' : ''}`;
}

/** Reads one from a document. Throws `InvalidInput` naming the place. */
export function readSpace(value: Record<string, unknown>, field: string): ColourSpace {
  const one = <T extends string>(name: string, list: readonly T[]): T => {
    const found = list.find((each) => each === value[name]);
    if (!found) throw new InvalidInput(`${field}.${name}`, `must be one of ${list.join(', ')}`);
    return found;
  };
  return {
    matrix: one('matrix', MATRICES),
    primaries: one('primaries', PRIMARIES),
    transfer: one('transfer', TRANSFERS),
    range: one('range', RANGES),
  };
}
