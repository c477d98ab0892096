export { type LayChoice, layClips, type LayPlan, planLay } from './lay.js';
