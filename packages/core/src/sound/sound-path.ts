import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { frameOfPosition, usableFrames } from '../sampling/dropped-repeats.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { framesPerSecond } from '../time/rate.js';
import { SOUND_RATE } from './resample.js';

const { min, max, abs, floor, round, sin, PI } = Math;

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

/** How a clip's sound comes out of the one before it, and goes over into the next: all of it in frames of the reel. */
export interface Crossing {
  /** It is heard this long before its clip begins, and after that ends. */
  readonly before: number;
  readonly after: number;
  /** How long it takes to come, and to go: with the other sound as loud together as one. 0: at once. */
  readonly comes: number;
  readonly goes: number;
}

/** As at a hard cut. */
export const AT_ONCE: Crossing = { before: 0, after: 0, comes: 0, goes: 0 };

/** How often the shares are looked at, seconds. */
const KNOT = 0.001;

/** The way of the sound of a clip that lasts `frames` frames of the reel, from where it is heard first. */
export function soundPath(project: Project, clip: Clip, frames: number, crossing = AT_ONCE): SoundPath {
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
  const { before, after, comes, goes } = crossing;
  const length = round(((before + frames + after) / fps) * SOUND_RATE);
  /** The clip's own time at a sample. */
  const timeAt = (sample: number) => (sample * fps) / SOUND_RATE - before;
  const held = (t: number) => frameOfPosition(source, min(max(positionAt(clip.map, t), 0), usable - 1e-9));
  const at = (sample: number) => (stands(timeAt(sample)) ? held(timeAt(sample)) : frameAt(timeAt(sample))) * perFrame;
  const rate = (sample: number) =>
    stands(timeAt(sample)) ? 0 : (slopeAt(clip.map, timeAt(sample)) * perFrame * fps) / SOUND_RATE;
  const { vertices } = clip.map;
  const { sound } = clip;
  const gain = 10 ** (sound.gainDb / 20);

  /** What is meant at a moment, all at once. */
  function meant(seconds: number): SoundShares {
    const t = seconds * fps - before;
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
  const [begins, ends] = [before / fps, seconds - after / fps];
  /** What of a crossing has passed at so many frames, as loudness: with its other half, squared, it is 1. */
  const crossedBy = (passed: number, frames: number) => sin((PI / 2) * min(1, max(0, passed / frames)));
  /** Fades, and the crossing at both cuts: at one that is hard the sound before it goes on a little past it. */
  function level(second: number): number {
    const come = comes > 0 ? crossedBy(second * fps, comes) : min(1, second / CROSSED);
    const gone = goes > 0 ? crossedBy((seconds - second) * fps, goes) : min(1, (seconds + CROSSED - second) / CROSSED);
    const faded = min(
      1,
      sound.fadeInSeconds > 0 ? (second - begins) / sound.fadeInSeconds : 1,
      sound.fadeOutSeconds > 0 ? (ends - second) / sound.fadeOutSeconds : 1,
    );
    return gain * max(0, come) * max(0, gone) * max(0, faded);
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
