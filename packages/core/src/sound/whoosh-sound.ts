import type { RampJoin } from '../model/join.js';
import type { Project } from '../model/project.js';
import { clipSlope } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { slopeAt } from '../time-map/evaluate.js';
import { framesPerSecond } from '../time/rate.js';
import { SOUND_RATE } from './resample.js';

/** Middle of the band at the peak, hertz: dark and bright. Where the ramp begins it is `OCTAVES` lower. */
const [DARK, BRIGHT, OCTAVES] = [500, 4000, 2.5];

/** Width of the band: the quality of the filter. */
const Q = 1.4;

/** Brings the noise that gets through to the level of a full-scale tone at 0 dB. */
const MAKE_UP = 2.2;

/** A join's whoosh: the sample of the reel it begins at, and both channels. */
interface WhooshSound {
  readonly start: number;
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/**
 * Makes a join's whoosh. The loudness goes with the logarithm of the speed, from nothing where the ramp begins to its gain at the
 * cut; the band rises with it. The filter is a state-variable one in the form that stays stable while its frequency moves
 * (V. Zavalishin, "The Art of VA Filter Design", 2012). The same join makes the same sound.
 */
export function whooshSound(project: Project, join: RampJoin): WhooshSound | undefined {
  const [before, after] = [placeOf(project, join.before), placeOf(project, join.after)];
  if (!join.whoosh || before?.item.kind !== 'clip' || after?.item.kind !== 'clip') return undefined;
  const fps = framesPerSecond(project.reel.rate);
  const perFrame = SOUND_RATE / fps;
  const cut = after.start;
  const start = Math.round(Math.max(0, cut - Math.min(join.into, before.frames)) * perFrame);
  const end = Math.round((cut + Math.min(join.outOf, after.frames)) * perFrame);
  const sides = [before, after].map(({ item, start: from }) => {
    const clip = item as typeof before.item & { kind: 'clip' };
    const normal = clipSlope(project, clip);
    return (frame: number) => Math.abs(slopeAt(clip.map, frame - from)) / normal;
  }) as [(frame: number) => number, (frame: number) => number];
  const speedAt = (frame: number) => (frame < cut ? sides[0] : sides[1])(frame);
  const peaks = [sides[0](cut), sides[1](cut)] as const;
  const rests = [speedAt(start / perFrame), speedAt(end / perFrame - 1e-6)] as const;
  const rise = (frame: number) => {
    const side = frame < cut ? 0 : 1;
    const whole = Math.log(peaks[side] / rests[side]);
    return whole > 0.01
      ? Math.min(1, Math.max(0, Math.log(speedAt(frame) / rests[side]) / whole))
      : frame < cut
        ? (frame - start / perFrame) / Math.max(1, cut - start / perFrame)
        : 1;
  };
  const top = DARK * (BRIGHT / DARK) ** join.whoosh.tone;
  const loud = 10 ** (join.whoosh.gainDb / 20) * MAKE_UP;
  const [left, right] = [new Float32Array(end - start), new Float32Array(end - start)];
  const filters = [bandPass(), bandPass()] as const;
  const noise = [noiseOf(1), noiseOf(2), noiseOf(3)] as const;
  for (let i = 0; i < left.length; i++) {
    const up = rise((start + i) / perFrame);
    const edge = Math.min(1, i / 480, (left.length - i) / 480);
    const middle = top * 2 ** (OCTAVES * (up - 1));
    const level = loud * up ** 1.5 * edge;
    const both = noise[0](i);
    left[i] = level * filters[0](0.8 * both + 0.6 * noise[1](i), middle);
    right[i] = level * filters[1](0.8 * both + 0.6 * noise[2](i), middle);
  }
  return { start, left, right };
}

function bandPass(): (input: number, hertz: number) => number {
  let [low, band] = [0, 0];
  const { tan, PI } = Math;
  return (input, hertz) => {
    const g = tan((PI * Math.min(hertz, SOUND_RATE * 0.45)) / SOUND_RATE);
    const high = (input - low - (1 / Q + g) * band) / (1 + g / Q + g * g);
    const through = g * high + band;
    band = g * high + through;
    const under = g * through + low;
    low = g * through + under;
    return through / Q;
  };
}

/** White noise, −1 … 1, by number: a hash of it (as in M. O'Neill's PCG, 2014). */
const noiseOf = (seed: number) => (n: number) => {
  let x = (Math.imul(n + 1, 747796405) + Math.imul(seed, 2891336453)) >>> 0;
  x = Math.imul((x >>> ((x >>> 28) + 4)) ^ x, 277803737) >>> 0;
  return (((x >>> 22) ^ x) >>> 0) / 2147483648 - 1;
};
