import { evenSpeeds, slowestRealSpeed } from '@idle-bend/core/cadence';
import { framesPerSecond, percentFigure, percentText, rate, speakRate, type Rate } from '@idle-bend/core/time';

const LIST = new Intl.ListFormat('en-GB');

/** "120 fps on 24: down to 20 % with every frame real; even at 20, 40, 60, 80 and 100 %". */
export function slowMotionHeadroom(source: Rate, reel: Rate): string {
  const slowest = slowestRealSpeed(source, reel);
  const even = evenSpeeds(source, reel, Math.min(slowest, 1), 1).slice(0, 6);
  const bears =
    slowest < 0.999 ? `down to ${percentText(slowest)} with every frame real` : 'no slow motion without made frames';
  return `${speakRate(source)} fps on ${speakRate(reel)}: ${bears}${even.length ? `; even at ${LIST.format(even.map(percentFigure))} %` : ''}`;
}

/** What cameras shoot slow motion at. */
const SLOW_MOTION = [rate(60), rate(120), rate(240)];

/** "60 fps bears 40 % on a reel of 24 fps, 120 fps bears 20 %"; nothing for a reel that is as fast as any camera. */
export function headroomOf(reel: Rate): string | undefined {
  const [first, second] = SLOW_MOTION.filter((fps) => framesPerSecond(fps) > framesPerSecond(reel));
  const bears = (source: Rate) => `${speakRate(source)} fps bears ${percentText(slowestRealSpeed(source, reel))}`;
  if (!first) return undefined;
  return `${bears(first)} on a reel of ${speakRate(reel)} fps${second ? `, ${bears(second)}` : ''}`;
}
