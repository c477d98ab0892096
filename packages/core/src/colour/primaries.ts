import type { ColourSpace } from './colour-space.js';

type Matrix3 = readonly [number, number, number, number, number, number, number, number, number];

/** Chromaticities of red, green and blue (x, y), ITU-T H.273 table 2; white is D65 in all. */
const CHROMATICITIES: Readonly<
  Record<ColourSpace['primaries'], readonly [number, number, number, number, number, number]>
> = {
  bt709: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06],
  smpte170m: [0.63, 0.34, 0.31, 0.595, 0.155, 0.07],
  bt470bg: [0.64, 0.33, 0.29, 0.6, 0.15, 0.06],
  bt2020: [0.708, 0.292, 0.17, 0.797, 0.131, 0.046],
  smpte432: [0.68, 0.32, 0.265, 0.69, 0.15, 0.06],
};

const D65 = [0.3127, 0.329] as const;

/** Linear light of some primaries to CIE XYZ, row by row (SMPTE RP 177). */
function toXyz(primaries: ColourSpace['primaries']): Matrix3 {
  const [xr, yr, xg, yg, xb, yb] = CHROMATICITIES[primaries];
  const columns = [
    [xr / yr, 1, (1 - xr - yr) / yr],
    [xg / yg, 1, (1 - xg - yg) / yg],
    [xb / yb, 1, (1 - xb - yb) / yb],
  ] as const;
  const plain: Matrix3 = [
    columns[0][0],
    columns[1][0],
    columns[2][0],
    1,
    1,
    1,
    columns[0][2],
    columns[1][2],
    columns[2][2],
  ];
  const white = [D65[0] / D65[1], 1, (1 - D65[0] - D65[1]) / D65[1]] as const;
  const inverse = inverted(plain);
  const [r, g, b] = [0, 3, 6].map(
    (row) => inverse[row]! * white[0] + inverse[row + 1]! * white[1] + inverse[row + 2]! * white[2],
  ) as [number, number, number];
  return [plain[0] * r, plain[1] * g, plain[2] * b, r, g, b, plain[6] * r, plain[7] * g, plain[8] * b];
}

function inverted([a, b, c, d, e, f, g, h, i]: Matrix3): Matrix3 {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const m = [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ];
  return m.map((v) => v / det) as unknown as Matrix3;
}

const times = (a: Matrix3, b: Matrix3): Matrix3 =>
  Array.from({ length: 9 }, (_, n) =>
    [0, 1, 2].reduce((sum, k) => sum + a[Math.floor(n / 3) * 3 + k]! * b[k * 3 + (n % 3)]!, 0),
  ) as unknown as Matrix3;

/** Linear light of some primaries as that of others, row by row. */
export const primariesMatrix = (from: ColourSpace['primaries'], to: ColourSpace['primaries']): Matrix3 =>
  from === to ? [1, 0, 0, 0, 1, 0, 0, 0, 1] : times(inverted(toXyz(to)), toXyz(from));

/** How much red, green and blue of some primaries weigh in luminance. */
export const luminanceWeights = (primaries: ColourSpace['primaries']): readonly [number, number, number] =>
  toXyz(primaries).slice(3, 6) as unknown as [number, number, number];
