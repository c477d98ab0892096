import { percentText } from '@idle-bend/core/time';

/** A clip's range of speeds: "20 to 100 %". */
export function speedWords({ slowest, fastest }: { slowest: number; fastest: number }): string {
  const low = percentText(slowest);
  return Math.abs(fastest - slowest) < 1e-6 ? low : `${low.replace(/\s*%$/, '')} to ${percentText(fastest)}`;
}
