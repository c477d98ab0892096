export { CELL, cellsOf } from './cells.js';
export { type Hit, HIT_KINDS, type HitKind } from './hits.js';
export { describeRepeats, type Health, HEALTH_LEAD, HealthMeter, healthOf, type HealthRecords } from './health.js';
