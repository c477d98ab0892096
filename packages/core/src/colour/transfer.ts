import { type ColourSpace, curveOf } from './colour-space.js';

/**
 * Between codes (0 … 1, as far as a picture keeps to them) and linear light. Light is 1 at the white of the standard range, which high
 * dynamic range has at 203 cd/m² (ITU-R BT.2408-7, 2.2). Curves go on below 0 mirrored, and beyond 1.
 */
export const WHITE_NITS = 203;

interface Curve {
  readonly toLight: (code: number) => number;
  readonly fromLight: (light: number) => number;
}

const mirrored =
  (f: (x: number) => number) =>
  (x: number): number =>
    x < 0 ? -f(-x) : f(x);

const power = (gamma: number): Curve => ({ toLight: (v) => v ** gamma, fromLight: (l) => l ** (1 / gamma) });

// SMPTE ST 2084.
const [M1, M2, C1, C2, C3] = [
  2610 / 16384,
  (2523 / 4096) * 128,
  3424 / 4096,
  (2413 / 4096) * 32,
  (2392 / 4096) * 32,
] as const;

// ITU-R BT.2100-2, table 5.
const [HA, HB, HC] = [0.17883277, 0.28466892, 0.55991073] as const;

/** Luminance a code of the perceptual quantiser stands for, cd/m². */
const pqToNits = (v: number): number => {
  const p = Math.max(0, v) ** (1 / M2);
  return 10000 * (Math.max(0, p - C1) / (C2 - C3 * p)) ** (1 / M1);
};

const nitsToPq = (nits: number): number => {
  const y = (Math.max(0, nits) / 10000) ** M1;
  return ((C1 + C2 * y) / (1 + C3 * y)) ** M2;
};

const CURVES: Readonly<Partial<Record<ColourSpace['transfer'], Curve>>> = {
  // What a screen makes of it, ITU-R BT.1886 with black at 0: colours are to stay as they were seen.
  bt709: power(2.4),
  // IEC 61966-2-1.
  'iec61966-2-1': {
    toLight: (v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4),
    fromLight: (l) => (l <= 0.0031308 ? 12.92 * l : 1.055 * l ** (1 / 2.4) - 0.055),
  },
  gamma22: power(2.2),
  bt470bg: power(2.8),
  linear: { toLight: (v) => v, fromLight: (l) => l },
  smpte2084: { toLight: (v) => pqToNits(v) / WHITE_NITS, fromLight: (l) => nitsToPq(l * WHITE_NITS) },
  // Light of the scene, 0 … 1; what a screen makes of it is the system's, not the curve's (see `HLG_GAMMA`).
  'arib-std-b67': {
    toLight: (v) => (v <= 0.5 ? (v * v) / 3 : (Math.exp((v - HC) / HA) + HB) / 12),
    fromLight: (l) => (l <= 1 / 12 ? Math.sqrt(3 * l) : HA * Math.log(12 * l - HB) + HC),
  },
};

/** A screen of 1000 cd/m² raises the luminance of an HLG scene to this power (BT.2100-2, table 5, note 5f). */
export const HLG_GAMMA = 1.2;

export const HLG_PEAK_NITS = 1000;

const curve = (transfer: ColourSpace['transfer']): Curve => CURVES[curveOf(transfer)]!;

export const toLight = (transfer: ColourSpace['transfer']): ((code: number) => number) =>
  mirrored(curve(transfer).toLight);

export const fromLight = (transfer: ColourSpace['transfer']): ((light: number) => number) =>
  mirrored(curve(transfer).fromLight);

/**
 * Brings light up to `peak` (1 = standard white) into 0 … 1: as it is in the dark, rolled off above, the peak at white (ITU-R BT.2390-11,
 * 5.4.1, the electro-electrical transfer function, in the perceptual quantiser's scale; black stays black).
 */
export function rolledOff(light: number, peak: number): number {
  const scale = nitsToPq(peak * WHITE_NITS);
  const most = nitsToPq(WHITE_NITS) / scale;
  const knee = 1.5 * most - 0.5;
  const e = Math.min(1, nitsToPq(light * WHITE_NITS) / scale);
  if (e <= knee) return light;
  const t = (e - knee) / (1 - knee);
  const p =
    (2 * t ** 3 - 3 * t ** 2 + 1) * knee + (t ** 3 - 2 * t ** 2 + t) * (1 - knee) + (-2 * t ** 3 + 3 * t ** 2) * most;
  return pqToNits(p * scale) / WHITE_NITS;
}
