import { evenSpeeds, slowestRealSpeed } from '@idle-bend/core/cadence';
import { framesPerSecond, percentText, rate, speakRate, type Rate } from '@idle-bend/core/time';
import { listOfPercents } from '../ui/list-of-percents.ts';

/** "120 fps on 24: down to 20 % with every frame real; even at 20, 40, 60, 80 and 100 %". */
export function slowMotionHeadroom(source: Rate, reel: Rate): string {
  const slowest = slowestRealSpeed(source, reel);
  const even = evenSpeeds(source, reel, Math.min(slowest, 1), 1).slice(0, 6);
  const bears =
    slowest < 0.999 ? `down to ${percentText(slowest)} with every frame real` : 'no slow motion without made frames';
  return `${speakRate(source)} fps on ${speakRate(reel)}: ${bears}${even.length ? `; even at ${listOfPercents(even)}` : ''}`;
}

/** What cameras shoot slow motion at. */
const SLOW_MOTION = [60, 120, 240];

/**
 * "60 fps bears 40 % on a reel of 24 fps, 120 fps bears 20 %"; nothing for a reel that is as fast as any camera. A camera that
 * shoots for a reel of 29.97 fps is set to 59.94 and 119.88.
 */
export function headroomOf(reel: Rate): string | undefined {
  const shot = SLOW_MOTION.map((fps) => (reel.den === 1001 ? rate(fps * 1000, 1001) : rate(fps)));
  const [first, second] = shot.filter((fps) => framesPerSecond(fps) > framesPerSecond(reel));
  const bears = (source: Rate) => `${speakRate(source)} fps bears ${percentText(slowestRealSpeed(source, reel))}`;
  if (!first) return undefined;
  return `${bears(first)} on a reel of ${speakRate(reel)} fps${second ? `, ${bears(second)}` : ''}`;
}
