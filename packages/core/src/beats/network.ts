/** A small network: one layer of tanh units and a straight way past them, to one number. */
export interface Network {
  /** What each input is on average, and how far from that it usually is. */
  readonly means: readonly number[];
  readonly deviations: readonly number[];
  /** For each unit its weight of every input, in order; what it starts from; what it counts. */
  readonly weights: readonly number[];
  readonly biases: readonly number[];
  readonly outputs: readonly number[];
  /** What each input counts by itself. */
  readonly straight: readonly number[];
}

/** Inputs further from their mean count as so many deviations: nothing that far was seen when the network was fitted. */
const FURTHEST = 4;

/** What the network says of an input, which is as long as its means. Throws `RangeError` where it is not. */
export function scoreOf(network: Network, input: readonly number[]): number {
  const { means, deviations, weights, biases, outputs, straight } = network;
  const size = means.length;
  if (input.length !== size) throw new RangeError(`a network of ${size} inputs was given ${input.length}`);
  // Plain loops: this is asked some ten thousand times for a minute of sound.
  const scaled = new Float64Array(size);
  let score = 0;
  for (let i = 0; i < size; i++) {
    scaled[i] = Math.max(-FURTHEST, Math.min(FURTHEST, (input[i]! - means[i]!) / deviations[i]!));
    score += straight[i]! * scaled[i]!;
  }
  for (let unit = 0; unit < biases.length; unit++) {
    let sum = biases[unit]!;
    for (let i = 0, at = unit * size; i < size; i++, at++) sum += weights[at]! * scaled[i]!;
    score += outputs[unit]! * Math.tanh(sum);
  }
  return score;
}

/** What several networks that were fitted from different beginnings say together: each errs elsewhere. */
export const meanScoreOf = (networks: readonly Network[], input: readonly number[]): number =>
  networks.reduce((sum, network) => sum + scoreOf(network, input), 0) / networks.length;
