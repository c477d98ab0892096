import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, onlyFields, whole } from '../foundation/readers.js';

/** The dominant motion of the picture from one frame to the next. */
export interface CameraMotion {
  /** Shares of the picture's width by which what is seen moves to the right and down: a camera that pans left gives x > 0. */
  readonly x: number;
  readonly y: number;
  /** Growth of what is seen about the centre, as a ratio less 1. */
  readonly push: number;
  /** Degrees by which what is seen turns clockwise. */
  readonly roll: number;
  /** 0…1: the share of what is seen that moves so. */
  readonly sure: number;
}

/** What is known of the motion from one source frame to the next one of it that is no repeat. */
export interface PairMotion {
  /** 0…1: how sure a frame made halfway between is to look right. */
  readonly confidence: number;
  /** The change of exposure as log₂ of the gain; not a number where nothing goes on from one to the other (a cut). */
  readonly exposure: number;
  readonly camera: CameraMotion;
}

/** The motion of a source, found by looking at its frames. */
export interface SourceMotion {
  /** Entry n goes from frame n to frame n + 1. */
  readonly pairs: readonly PairMotion[];
  /** Where repeats are left out, the pairs that then follow one another and did not before, by the first frame. */
  readonly across: ReadonlyMap<number, { readonly to: number; readonly motion: PairMotion }>;
}

/** An in-between less sure than this is likely to be torn or smeared: its error is estimated above that of 26 dB. */
export const ROUGH_BELOW = 0.5;

/** The pair from frame `a` to frame `b`; none when it was not looked at. */
export function pairMotion(motion: SourceMotion, a: number, b: number): PairMotion | undefined {
  if (b === a + 1) return motion.pairs[a];
  const across = motion.across.get(a);
  return across?.to === b ? across.motion : undefined;
}

/** Numbers of a pair in a motion file, in this order. */
const FIELDS = ['confidence', 'exposure', 'x', 'y', 'push', 'roll', 'sure'] as const;

/** A source's motion as JSON: a pair is a row of numbers, rounded; a cut has `null` for its exposure. */
export interface MotionFile {
  readonly version: 1;
  readonly fields: readonly string[];
  readonly pairs: readonly (readonly (number | null)[])[];
  readonly across: readonly { readonly from: number; readonly to: number; readonly pair: readonly (number | null)[] }[];
}

const rounded = (value: number) => (Number.isFinite(value) ? Math.round(value * 1e4) / 1e4 : null);

export function writeMotion({ pairs, across }: SourceMotion): MotionFile {
  const row = ({ confidence, exposure, camera: { x, y, push, roll, sure } }: PairMotion) =>
    [confidence, exposure, x, y, push, roll, sure].map(rounded);
  return {
    version: 1,
    fields: FIELDS,
    pairs: pairs.map(row),
    across: [...across].map(([from, { to, motion }]) => ({ from, to, pair: row(motion) })),
  };
}

/** Reads a motion file. Throws `InvalidInput` naming the place. */
export function parseMotion(value: unknown): SourceMotion {
  const file = object(value, 'motion');
  onlyFields(file, ['version', 'fields', 'pairs', 'across'], 'motion');
  if (file['version'] !== 1) throw new InvalidInput('motion.version', 'is not 1');
  const across = array(file['across'], 'motion.across').map((entry, i) => {
    const field = `motion.across[${i}]`;
    const one = object(entry, field);
    return [
      whole(one['from'], `${field}.from`),
      { to: whole(one['to'], `${field}.to`), motion: readPair(one['pair'], `${field}.pair`) },
    ] as const;
  });
  return {
    pairs: array(file['pairs'], 'motion.pairs', 10_000_000).map((row, i) => readPair(row, `motion.pairs[${i}]`)),
    across: new Map(across),
  };
}

function readPair(value: unknown, field: string): PairMotion {
  const row = array(value, field, FIELDS.length);
  const at = (i: number) => finite(row[i], `${field}[${i}]`);
  const exposure = row[1] === null ? NaN : at(1);
  return { confidence: at(0), exposure, camera: { x: at(2), y: at(3), push: at(4), roll: at(5), sure: at(6) } };
}
