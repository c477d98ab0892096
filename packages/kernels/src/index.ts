export * from './kernels.js';
export { canFlow, Flow, flowBytes, isCut, type Keys, type PairFlow } from './flow/flow.js';
export type { Field, GridFlow } from './flow/estimate.js';
export { EFFORTS, LEVELS, type FlowEffort, type Level } from './flow/levels.js';
