import { evenSpeeds, slowestRealSpeed } from '@idle-bend/core/cadence';
import { speakRate, type Rate } from '@idle-bend/core/time';

const percent = (speed: number) => `${Math.round(speed * 1000) / 10}`;

/** "120 fps on 24: down to 20 % with every frame real; even at 20 40 60 80 100 %". */
export function slowMotionHeadroom(source: Rate, reel: Rate): string {
  const slowest = slowestRealSpeed(source, reel);
  const even = evenSpeeds(source, reel, Math.min(slowest, 1), 1).slice(0, 6);
  const bears =
    slowest < 0.999 ? `down to ${percent(slowest)} % with every frame real` : 'no slow motion without made frames';
  return `${speakRate(source)} fps on ${speakRate(reel)}: ${bears}${even.length ? `; even at ${even.map(percent).join(' ')} %` : ''}`;
}
