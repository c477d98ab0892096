import { formatTimecode, isDropFrame, parseTimecode, type Rate } from '@idle-bend/core/time';

/** A timecode, and at which rate its frames are counted where that is known. */
export interface CountedTimecode {
  readonly label: string;
  readonly rate: Rate | undefined;
}

/**
 * A start timecode as single frames of the picture are counted from it. Above 30 frames a second many cameras count pairs of frames, or
 * fours (SMPTE ST 12-1, "high frame rate"): `:15` is then frame 30 of its second at twice the rate, and is said as `:30`. What counts single
 * frames, or does not go into the picture's rate, stays as it is.
 */
export function timecodeOfFrames({ label, rate }: CountedTimecode, picture: Rate | undefined): string {
  if (!rate || !picture) return label;
  const each = (picture.num * rate.den) / (picture.den * rate.num);
  if (each === 1 || !Number.isInteger(each)) return label;
  try {
    return formatTimecode(parseTimecode(label, rate) * each, picture, isDropFrame(label));
  } catch {
    // A label that does not exist at that rate is not touched.
    return label;
  }
}
