import type { TimeMap } from '@idle-bend/core/time-map';
import { chartScales, speedScale, type ChartScales, type SpeedScale } from './scales.ts';

/** Where the parts of the chart are, in pixels of its drawing. */
export const LEFT = 104;
const RIGHT = 14;
export const TOP = 8;
export const LENS_HEIGHT = 26;
const STRIP_HEIGHT = 20;
/** Pixels of a letter in the chart, about. */
export const LETTER = 6.7;
const SPEED_HEIGHT = 132;
/** A lower chart is the curve alone, without the speed below it. */
const LOWEST_WITH_SPEED = 300;
/** Below the curve: the times of its lines. */
const AXIS_HEIGHT = 15;

export interface Places {
  readonly scales: ChartScales;
  readonly speed: SpeedScale;
  readonly chartBottom: number;
  readonly lensY: number;
  readonly stripY: number;
  readonly speedTop: number;
  readonly speedBottom: number;
  readonly right: number;
}

/** @param map the map whose extent sets the scales @param frames timeline frames of the clip @param sourceFrames frames of its source */
export function placesOf(map: TimeMap, frames: number, sourceFrames: number, width: number, height: number): Places {
  const speedBottom = height - 8;
  const speedTop = speedBottom - (height < LOWEST_WITH_SPEED ? 0 : SPEED_HEIGHT);
  const stripY = speedTop - STRIP_HEIGHT - 4;
  const lensY = stripY - LENS_HEIGHT;
  const chartBottom = lensY - AXIS_HEIGHT;
  const right = width - RIGHT;
  return {
    speedBottom,
    speedTop,
    stripY,
    lensY,
    chartBottom,
    right,
    scales: chartScales(map, frames, sourceFrames, { left: LEFT, right, top: TOP, bottom: chartBottom }),
    speed: speedScale(speedTop, speedBottom),
  };
}
