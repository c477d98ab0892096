import { InvalidInput } from '../foundation/errors.js';

/** A speed as people write it: 40 %, 2.5 %, −100 %. */
export function percentText(speed: number): string {
  const percent = Math.round(speed * 1e4) / 100;
  return `${percent < 0 ? '−' : ''}${Math.abs(percent) >= 100 ? Math.round(Math.abs(percent) * 10) / 10 : Math.abs(percent)} %`;
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
 * stretch is to take, `36f` or `1.5s`. A minus plays it backward. Throws `InvalidInput`.
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
  return sign * (unit === '%' ? value / 100 : unit === 'fps' ? value / sourceFps : value);
}
