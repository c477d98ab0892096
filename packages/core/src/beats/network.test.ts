import { expect, test } from '@jest/globals';
import { meanScoreOf, scoreOf } from './network.js';

const network = {
  means: [1, -2],
  deviations: [2, 0.5],
  weights: [0.3, -0.7, 1.1, 0.2],
  biases: [0.1, -0.4],
  outputs: [2, -3],
  straight: [0.5, 0.25],
};

test('a network says what its units and its straight way say of inputs in deviations', () => {
  const [a, b] = [(2 - 1) / 2, (-1.8 + 2) / 0.5];
  const byHand = 0.5 * a + 0.25 * b + 2 * Math.tanh(0.1 + 0.3 * a - 0.7 * b) - 3 * Math.tanh(-0.4 + 1.1 * a + 0.2 * b);
  expect(scoreOf(network, [2, -1.8])).toBeCloseTo(byHand, 12);
});

test('what is further off than anything it was fitted on counts no more than that; a wrong number of inputs is refused', () => {
  expect(scoreOf(network, [1e9, -2])).toBe(scoreOf(network, [9, -2]));
  expect(() => scoreOf(network, [1])).toThrow('a network of 2 inputs was given 1');
});

test('several networks say their mean', () => {
  const other = { ...network, biases: [0.9, 0.4] };
  const input = [0.3, -2.2];
  const mean = (scoreOf(network, input) + scoreOf(other, input)) / 2;
  expect(meanScoreOf([network, other], input)).toBeCloseTo(mean, 12);
});
