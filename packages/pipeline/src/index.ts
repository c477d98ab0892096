export * from './frame-provider.js';
export * from './compose.js';
export * from './clip-plan.js';
