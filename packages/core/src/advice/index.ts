export { type Advice, adviseClip } from './advice.js';
