import { InvalidInput } from '../foundation/errors.js';

/** A speed as people write it: 40 %, 2.5 %, −100 %. */
export const percentText = (speed: number): string => `${percentFigure(speed)} %`;

/** The figure alone, for several in a row. */
export function percentFigure(speed: number): string {
  const percent = Math.round(speed * 1e4) / 100;
  return `${percent < 0 ? '−' : ''}${Math.abs(percent) >= 100 ? Math.round(Math.abs(percent) * 10) / 10 : Math.abs(percent)}`;
}

/** What a typed speed may be measured by, beside percent and factor. */
export interface SpeedMeasure {
  /** Source frames per second at 100 %. */
  readonly sourceFps: number;
  /** Timeline frames per second. */
  readonly reelFps: number;
  /** How many timeline frames the stretch takes now, and at which speed. */
  readonly frames: number;
  readonly speed: number;
}

/**
 * Reads a typed speed as a ratio: `40` or `40 %`, a factor `0.4x`, source frames per second `48 fps`, or how long the
 * stretch is to take, `36f` or `1.5s`. A minus plays it backward. A percentage that is shown just as one at which frames stay real is that
 * one. Throws `InvalidInput`.
 */
export function parseSpeed(text: string, { sourceFps, reelFps, frames, speed }: SpeedMeasure): number {
  const match = /^\s*([+\-−]?)(\d+(?:[.,]\d+)?)\s*(%|x|×|fps|f|s)?\s*$/i.exec(text);
  if (!match) throw new InvalidInput('speed', `"${text}" is not a speed; type 40 %, 0.4x, 48 fps, 36f or 1.5s`);
  const value = Number(match[2]!.replace(',', '.'));
  const unit = match[3]?.toLowerCase() ?? '%';
  const sign = match[1] === '-' || match[1] === '−' ? -1 : 1;
  if (unit === 'f' || unit === 's') {
    if (speed === 0) throw new InvalidInput('speed', 'a freeze has no content to fit; drag its end instead');
    if (value <= 0) throw new InvalidInput('speed', 'a stretch takes more than no time at all');
    return (sign * Math.abs(speed) * frames) / (unit === 'f' ? value : value * reelFps);
  }
  if (unit === '%') return sign * cleanAsShown(value / 100, sourceFps / reelFps);
  return sign * (unit === 'fps' ? value / sourceFps : value);
}

/** Of how many timeline frames one has to be real. */
const MAX_PERIOD = 8;

/**
 * Clean speeds are shown rounded, and typed as they are shown: 20.83 % stands for 5/24, at which every frame of 120 fps is real on 25. Above 0.
 */
function cleanAsShown(speed: number, naturalSlope: number): number {
  const slope = speed * naturalSlope;
  const slopes = Array.from({ length: MAX_PERIOD }, (_, i) => Math.round(slope * (i + 1)) / (i + 1));
  const shown = percentText(speed);
  const clean = [...slopes, 1 / Math.round(1 / slope)].find((one) => percentText(one / naturalSlope) === shown);
  return clean === undefined ? speed : clean / naturalSlope;
}
