import { framesPerSecond, naturalSlope, type Rate, rate } from '../time/rate.js';
import { cleanSlope } from './clean-slope.js';

/** Rates that cameras shoot at and reels have. */
const COMMON: readonly Rate[] = [
  ...[24, 25, 30, 48, 50, 60, 72, 90, 100, 120, 144, 180, 200, 240].map((fps) => rate(fps)),
  ...[24000, 30000, 48000, 60000, 120000, 240000].map((fps) => rate(fps, 1001)),
];

/**
 * For a source that no speed of few digits makes clean on a timeline (59.94 on 24: at 100 % one frame of 1001 is real): what it would have to
 * be read as, and what the timeline would have to be, each the nearest there is. `undefined` where it can be clean as it is.
 */
export function cleanRates(
  source: Rate,
  timeline: Rate,
): { readonly readAs: Rate; readonly timeline: Rate } | undefined {
  if (cleanSlope(naturalSlope(source, timeline))) return undefined;
  const nearest = (to: Rate, isClean: (r: Rate) => boolean) => {
    const away = (r: Rate) => Math.abs(Math.log(framesPerSecond(r) / framesPerSecond(to)));
    return COMMON.filter(isClean).reduce((a, b) => (away(b) < away(a) ? b : a));
  };
  return {
    readAs: nearest(source, (r) => cleanSlope(naturalSlope(r, timeline)) !== undefined),
    timeline: nearest(timeline, (r) => cleanSlope(naturalSlope(source, r)) !== undefined),
  };
}
