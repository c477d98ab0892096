import { InvalidInput } from '../foundation/errors.js';
import type { AccentSet, Amount } from '../model/accent.js';
import type { Project } from '../model/project.js';
import type { Sound } from '../model/sound.js';
import { secondOfFrame } from '../reel/sound-time.js';
import { PEAKS_PER_SECOND } from '../sound/peaks.js';
import { easeCurve } from '../time-map/ease.js';

/** Loudness is kept so many times a second: what is faster flickers instead of swelling. */
const LEVELS_PER_SECOND = 12;

/** Loudness as it is felt goes with the 0.6th power of the amplitude (S. S. Stevens, "The measurement of loudness", 1955). */
const FELT = 0.6;

/**
 * The loudness of the part of a sound that is used, 0 … 1 of its loudest, out of its peaks (as `peaksOf` gives them). Throws
 * `InvalidInput` where nothing is heard in it.
 */
export function loudnessAmount({ id, name, fromSeconds, toSeconds }: Sound, peaks: Int8Array): Amount {
  const count = Math.ceil((toSeconds - fromSeconds) * LEVELS_PER_SECOND) + 1;
  const around = 1 / LEVELS_PER_SECOND;
  const levels = Array.from({ length: count }, (_, i) => {
    const at = fromSeconds + i / LEVELS_PER_SECOND;
    return meanSwing(peaks, Math.max(fromSeconds, at - around), Math.min(toSeconds, at + around)) ** FELT;
  });
  const loudest = levels.reduce((most, level) => Math.max(most, level), 0);
  if (loudest === 0) throw new InvalidInput('amount', `nothing is heard in "${name}"`);
  return {
    ...{ kind: 'loudness', soundId: id, second: fromSeconds, perSecond: LEVELS_PER_SECOND },
    levels: levels.map((level) => Math.round((100 * level) / loudest) / 100),
  };
}

/** The mean of how far the samples go from low to high between two seconds, 0 … 1. */
function meanSwing(peaks: Int8Array, from: number, to: number): number {
  const first = Math.max(0, Math.floor(from * PEAKS_PER_SECOND));
  const last = Math.min(peaks.length / 2, Math.ceil(to * PEAKS_PER_SECOND));
  let sum = 0;
  for (let n = first; n < last; n++) sum += (peaks[2 * n + 1]! - peaks[2 * n]!) / 254;
  return last > first ? sum / (last - first) : 0;
}

/** The share of its strength that a set has at a frame of the reel, 0 … 1; all of it where it does not change, or its sound is gone. */
export function amountAt(project: Project, { amount, on }: AccentSet, frame: number): number {
  if (!amount || on.kind !== 'range') return 1;
  if (amount.kind === 'eased') {
    const u = (frame - on.from + 0.5) / (on.to - on.from);
    const risen = { rises: u, falls: 1 - u, swells: 1 - Math.abs(2 * u - 1) }[amount.way];
    return within(easeCurve(amount.ease).value(within(risen)));
  }
  const sound = project.reel.sounds.find(({ id }) => id === amount.soundId);
  if (!sound) return 1;
  const second = secondOfFrame(project, sound, frame);
  if (second < sound.fromSeconds || second >= sound.toSeconds) return 0;
  const at = (second - amount.second) * amount.perSecond;
  const i = Math.floor(at);
  const level = (n: number) => amount.levels[Math.max(0, Math.min(amount.levels.length - 1, n))] ?? 1;
  return level(i) + (level(i + 1) - level(i)) * (at - i);
}

const within = (share: number) => Math.max(0, Math.min(1, share));
