/** Beats a minute. */
export interface TempoRange {
  readonly low: number;
  readonly high: number;
}

export const ANY_TEMPO: TempoRange = { low: 50, high: 215 };
