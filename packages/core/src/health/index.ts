export { type Hit, HIT_KINDS, type HitKind } from './hits.js';
export { describeRepeats, type Health, HealthMeter } from './health.js';
