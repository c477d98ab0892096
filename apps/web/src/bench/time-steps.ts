const MINUTE = 60;
const HOUR = 60 * MINUTE;

const STEPS = [
  ...[0.5, 1, 2, 5, 10, 30],
  ...[MINUTE, 2 * MINUTE, 5 * MINUTE, 10 * MINUTE, 30 * MINUTE],
  ...[HOUR, 2 * HOUR, 6 * HOUR, 12 * HOUR],
];

/** Seconds from one mark of a time axis to the next: round ones, the least that leave so many pixels between them. */
export function timeStep(pixelsPerSecond: number, leastPixels: number, least = 0): number {
  const isEnough = (step: number) => step >= least && step * pixelsPerSecond > leastPixels;
  const step = STEPS.find(isEnough);
  if (step !== undefined) return step;
  let days = 24 * HOUR;
  while (!isEnough(days)) days *= 2;
  return days;
}
