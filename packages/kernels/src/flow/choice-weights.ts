// Made by bench/sequences/fit-choice.mjs of drawn sequences; not edited by hand.
export const BIAS = 1.164;
export const WEIGHTS: readonly number[] = [
  -1.485, -0.037, -0.796, 0.624, -0.036, -0.528, -0.72, 0.36, 0.248, 0.599, 0.015, 0.59, 0.486, 0.463, 0.256, -0.722,
  -2.194, -1.774, -0.564, 0.278, -0.673, -1.915, -1.563, -0.228, -0.298, -2.03, -1.497, 0.135, -0.596,
];
