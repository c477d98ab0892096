export { exposed } from './exposed.js';
