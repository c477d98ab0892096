import { InvalidInput } from '../foundation/errors.js';
import { framesPerSecond, type Rate } from './rate.js';

/** The whole number of frame labels in a second: 24 for 24000/1001, 30 for 30000/1001. */
function nominalRate(r: Rate): number {
  return Math.max(1, Math.round(framesPerSecond(r)));
}

/** Drop-frame counting is defined for multiples of 30000/1001 only (SMPTE ST 12-1 §5.2.2). */
export function canDropFrames(r: Rate): boolean {
  return r.den === 1001 && r.num % 30000 === 0;
}

const pad = (n: number, width: number) => String(n).padStart(width, '0');

/**
 * The timecode of a frame, `HH:MM:SS:FF`, or `HH:MM:SS;FF` in drop-frame counting, where labels 0 and 1 of each
 * minute (times the multiple of 30) are skipped save in every tenth minute. Hours grow past 24 rather than wrap.
 * @param frame whole frame number from 0; negative frames get a leading minus
 */
export function formatTimecode(frame: number, r: Rate, drop = false): string {
  if (frame < 0) return `-${formatTimecode(-frame, r, drop)}`;
  const nominal = nominalRate(r);
  const useDrop = drop && canDropFrames(r);
  const label = useDrop ? frame + skippedLabels(frame, nominal) : frame;
  const digits = nominal > 100 ? 3 : 2;
  const seconds = Math.floor(label / nominal);
  return `${pad(Math.floor(seconds / 3600), 2)}:${pad(Math.floor(seconds / 60) % 60, 2)}:${pad(seconds % 60, 2)}${useDrop ? ';' : ':'}${pad(label % nominal, digits)}`;
}

function skippedLabels(frame: number, nominal: number): number {
  const perMinuteSkip = nominal / 15;
  const framesPerTenMinutes = nominal * 600 - perMinuteSkip * 9;
  const framesPerMinute = nominal * 60 - perMinuteSkip;
  const tens = Math.floor(frame / framesPerTenMinutes);
  const rest = frame % framesPerTenMinutes;
  const minutes = rest < nominal * 60 ? 0 : 1 + Math.floor((rest - nominal * 60) / framesPerMinute);
  return perMinuteSkip * (tens * 9 + minutes);
}

/** Whether a timecode counts drop-frame, by what stands before its frames. */
export const isDropFrame = (label: string): boolean => /[;.]\d+$/.test(label.trim());

/**
 * The frame number of a timecode. A `;` or `.` before the frames means drop-frame counting.
 * Throws `InvalidInput` for a malformed code, a field out of range, or a label that drop-frame counting skips.
 */
export function parseTimecode(text: string, r: Rate, field = 'timecode'): number {
  const match = /^(\d{1,3}):(\d{2}):(\d{2})([:;.])(\d{2,4})$/.exec(text.trim());
  if (!match) throw new InvalidInput(field, `"${text}" is not a timecode; write HH:MM:SS:FF`);
  const [hours, minutes, seconds, frames] = [1, 2, 3, 5].map((i) => Number(match[i])) as [
    number,
    number,
    number,
    number,
  ];
  const nominal = nominalRate(r);
  if (minutes > 59 || seconds > 59 || frames >= nominal)
    throw new InvalidInput(field, `"${text}" has a part out of range; frames run from 00 to ${nominal - 1}`);
  const label = (hours * 3600 + minutes * 60 + seconds) * nominal + frames;
  if (match[4] === ':') return label;
  if (!canDropFrames(r))
    throw new InvalidInput(field, `"${text}" counts drop-frame, which only multiples of 29.97 have`);
  const skip = nominal / 15;
  const totalMinutes = hours * 60 + minutes;
  if (seconds === 0 && frames < skip && totalMinutes % 10 !== 0)
    throw new InvalidInput(field, `"${text}" does not exist: drop-frame counting skips it`);
  return label - skip * (totalMinutes - Math.floor(totalMinutes / 10));
}
