export { cleanSlope } from './clean-slope.js';
export { cadenceOfSpeed, describeCadence, evenSpeeds, nearestEvenSpeed, slowestRealSpeed, stepOf } from './cadence.js';
