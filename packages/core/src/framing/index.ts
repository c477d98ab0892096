export { coveredShare, type Place, placePicture, type Size } from './framing.js';
