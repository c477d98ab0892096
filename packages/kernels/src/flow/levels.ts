import { FLOW_LEVELS, type FlowLevel } from '@idle-bend/core/model';

/** What one estimate of a pair's motion spends. */
export interface FlowEffort {
  /** The field has one vector for 2^finest × 2^finest pixels … */
  readonly finest: number;
  /** … or for as many more as keep it from being wider than this: a large picture's detail is finer than its motion. */
  readonly widest?: number;
  /** Distance between patch corners, in samples of the pyramid level. */
  readonly step: number;
  /** Gauss–Newton steps a patch may take. */
  readonly steps: number;
  /** Patches that nothing near explains look afar at the finest level no wider than this, in samples. */
  readonly farWidth: number;
}

/** Quality levels, from fast to good. */
export const LEVELS = FLOW_LEVELS;
/** `moving` is for keeping time while a preview plays on a busy machine, and never for a render. */
export type Level = FlowLevel | 'moving';

/** Each level's estimates; of several, the pictures they make are averaged, so that the errors of one grid are halved. */
export const EFFORTS: Readonly<Record<Level, readonly FlowEffort[]>> = {
  moving: [{ finest: 3, step: 4, steps: 5, farWidth: 100 }],
  quick: [{ finest: 2, widest: 240, step: 6, steps: 5, farWidth: 200 }],
  default: [{ finest: 1, step: 4, steps: 8, farWidth: 200 }],
  best: [
    { finest: 1, step: 4, steps: 8, farWidth: 200 },
    { finest: 1, step: 3, steps: 8, farWidth: 200 },
  ],
};
