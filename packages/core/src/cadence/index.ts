export { cadenceOfSpeed, describeCadence, evenSpeeds, nearestEvenSpeed, slowestRealSpeed, stepOf } from './cadence.js';
