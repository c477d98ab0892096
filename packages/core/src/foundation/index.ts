export { InvalidInput } from './errors.js';
export { array, object, string, whole } from './readers.js';
export { upperBound } from './upper-bound.js';
