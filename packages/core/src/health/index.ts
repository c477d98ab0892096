export { describeRepeats, type Health, HealthMeter } from './health.js';
