export { type CellLayout, cellsOf } from './cells.js';
export { DIFFERENCE_BLOCK, type FrameDifference, motionIn, NO_DIFFERENCE, shiftIn } from './difference.js';
export { describeRepeats, type Health, healthOf, type HealthRecords } from './health.js';
export { type Hit, HIT_KINDS, type HitKind } from './hits.js';
export { HEALTH_LEAD, HealthLog } from './log.js';
export { type Movers, MOVERS_BLOCK, moversIn } from './movers.js';
export { type Slopes, SUMS } from './slopes.js';
