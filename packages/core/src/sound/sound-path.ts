import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { frameOfPosition, usableFrames } from '../sampling/dropped-repeats.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { framesPerSecond } from '../time/rate.js';
import { SOUND_RATE } from './resample.js';

const { min, max, abs, floor, round } = Math;

/** How loud each way of making a clip's sound is at a moment: factors. */
interface SoundShares {
  /** Read along the curve: its pitch follows. */
  readonly follow: number;
  /** Stretched along the curve: its pitch stays. */
  readonly keep: number;
}

/** A clip's sound as a way through its source's. Times are samples of the reel, from the clip's beginning, at `SOUND_RATE`. */
export interface SoundPath {
  /** Samples on the reel. */
  readonly length: number;
  /** The sample of the source heard at a sample of the reel, a real number, and how many it passes there. */
  position(sample: number): number;
  rate(sample: number): number;
  shares(sample: number): SoundShares;
}

/** Cuts, and changes from one way to the other, are crossed over so many seconds: no click is heard, and no gap. */
export const CROSSED = 0.003;

const CHANGED = 0.01;

/** Slower than this the pitch has fallen out of hearing; the sound goes with it. */
const INAUDIBLE = 0.02;

/** How often the shares are looked at, seconds. */
const KNOT = 0.001;

/** The way of the sound of a clip that lasts `frames` frames of the reel. */
export function soundPath(project: Project, clip: Clip, frames: number): SoundPath {
  const source = sourceOf(project, clip);
  const fps = framesPerSecond(project.reel.rate);
  // The sound of a file runs at the file's own rate, whatever its pictures are read as.
  const perFrame = SOUND_RATE / framesPerSecond(source.nativeRate);
  const usable = usableFrames(source);
  const beyond = (s: number) => s < 0 || s >= usable;
  const looped = (s: number) => (clip.end === 'loop' ? ((s % usable) + usable) % usable : s);
  const frameAt = (t: number) => frameOfPosition(source, looped(positionAt(clip.map, t)));
  // Past an end that holds its picture the sound stands still as in any freeze; where that is black nothing is heard.
  const stands = (t: number) => clip.end !== 'loop' && beyond(positionAt(clip.map, t));
  const length = round((frames / fps) * SOUND_RATE);
  const perSample = fps / SOUND_RATE;
  const held = (t: number) => frameOfPosition(source, min(max(positionAt(clip.map, t), 0), usable - 1e-9));
  const at = (sample: number) =>
    (stands(sample * perSample) ? held(sample * perSample) : frameAt(sample * perSample)) * perFrame;
  const rate = (sample: number) =>
    stands(sample * perSample) ? 0 : slopeAt(clip.map, sample * perSample) * perFrame * perSample;
  const { vertices } = clip.map;
  const { sound } = clip;
  const gain = 10 ** (sound.gainDb / 20);

  /** What is meant at a moment, all at once. */
  function meant(seconds: number): SoundShares {
    const t = seconds * fps;
    const reach = max(
      0,
      vertices.findLastIndex((v, i) => i < vertices.length - 1 && v.t <= t),
    );
    const mode = sound.reaches.find((own) => own.reach === reach)?.mode ?? sound.mode;
    if (mode === 'mute' || (clip.end === 'black' && beyond(positionAt(clip.map, t)))) return SILENT;
    const passed = abs(rate(seconds * SOUND_RATE));
    if (passed < 1e-9) return sound.freeze === 'grain' ? KEPT : SILENT;
    return mode === 'keep' ? KEPT : { follow: min(1, passed / INAUDIBLE), keep: 0 };
  }

  const knots = new Map<number, SoundShares>();
  /** The same with every change drawn out. */
  function knot(n: number): SoundShares {
    let known = knots.get(n);
    if (known) return known;
    const half = round(CHANGED / KNOT / 2);
    let [follow, keep] = [0, 0];
    for (let i = n - half; i <= n + half; i++) {
      const shares = meant(i * KNOT);
      follow += shares.follow;
      keep += shares.keep;
    }
    known = { follow: follow / (2 * half + 1), keep: keep / (2 * half + 1) };
    if (knots.size > 100_000) knots.clear();
    knots.set(n, known);
    return known;
  }

  const seconds = length / SOUND_RATE;
  /** Fades, and the crossing at both cuts: the sound before a cut goes on a little past it. */
  function level(second: number): number {
    const crossed = min(1, second / CROSSED, (seconds + CROSSED - second) / CROSSED);
    const faded = min(
      1,
      sound.fadeInSeconds > 0 ? second / sound.fadeInSeconds : 1,
      sound.fadeOutSeconds > 0 ? (seconds - second) / sound.fadeOutSeconds : 1,
    );
    return gain * max(0, crossed) * max(0, faded);
  }

  function shares(sample: number): SoundShares {
    const second = sample / SOUND_RATE;
    const loud = level(second);
    if (loud === 0) return SILENT;
    const place = second / KNOT;
    const [a, b] = [knot(floor(place)), knot(floor(place) + 1)];
    const between = place - floor(place);
    return {
      follow: loud * (a.follow + (b.follow - a.follow) * between),
      keep: loud * (a.keep + (b.keep - a.keep) * between),
    };
  }
  return { length, position: at, rate, shares };
}

const SILENT: SoundShares = { follow: 0, keep: 0 };

const KEPT: SoundShares = { follow: 0, keep: 1 };
