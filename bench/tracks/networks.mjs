// Fits the small networks of the beat analysis: a choice among candidates, by their likelihood (a conditional logit, D. McFadden, 1974),
// with Adam (D. Kingma & J. Ba, ICLR 2015) and dropout of inputs (N. Srivastava et al., JMLR 15, 2014).
import { randomOf } from '../../demo/music/tape.mjs';

/**
 * @param choices each `{ inputs, right, weight }`: an input for every candidate, which of them are right, and how much the choice counts
 * @returns a `Network` of `packages/core/src/beats/network.ts`
 */
export function fitNetwork(
  choices,
  { units = 24, epochs = 15, decay = 1e-3, rate = 2e-3, drop = 0.2, most = 12, seed = 1 } = {},
) {
  const size = choices[0].inputs[0].length;
  const random = randomOf(seed);
  const gauss = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
  const { means, deviations } = scaleOf(choices, size);
  const net = {
    weights: Float64Array.from({ length: units * size }, () => gauss() / Math.sqrt(size)),
    biases: new Float64Array(units),
    outputs: Float64Array.from({ length: units }, () => (0.3 * gauss()) / Math.sqrt(units)),
    straight: new Float64Array(size),
  };
  const names = Object.keys(net);
  const moments = names.map((name) => [new Float64Array(net[name].length), new Float64Array(net[name].length)]);
  const order = choices.map((_, i) => i);
  let steps = 0;
  for (let epoch = 0; epoch < epochs; epoch++) {
    shuffle(order, random);
    for (let from = 0; from < order.length; from += 16) {
      const slope = names.map((name) => new Float64Array(net[name].length));
      let total = 0;
      for (const i of order.slice(from, from + 16)) {
        total += choices[i].weight;
        addSlope(net, choices[i], { means, deviations, units, size, drop, most, random }, slope);
      }
      steps++;
      const speed = rate * (epoch < 0.6 * epochs ? 1 : 0.3);
      names.forEach((name, n) => {
        const [first, second] = moments[n];
        const values = net[name];
        for (let i = 0; i < values.length; i++) {
          const g = slope[n][i] / total;
          first[i] = 0.9 * first[i] + 0.1 * g;
          second[i] = 0.999 * second[i] + 0.001 * g * g;
          const step = first[i] / (1 - 0.9 ** steps) / (Math.sqrt(second[i] / (1 - 0.999 ** steps)) + 1e-8);
          values[i] -= speed * (step + (name === 'biases' ? 0 : decay) * values[i]);
        }
      });
    }
  }
  const rounded = (list) => Array.from(list, (value) => Number(value.toPrecision(4)));
  return {
    means: rounded(means),
    deviations: rounded(deviations),
    ...Object.fromEntries(names.map((name) => [name, rounded(net[name])])),
  };
}

function scaleOf(choices, size) {
  const means = new Float64Array(size);
  const deviations = new Float64Array(size);
  let count = 0;
  for (const { inputs } of choices) {
    count += inputs.length;
    for (const input of inputs) for (let i = 0; i < size; i++) means[i] += input[i];
  }
  for (let i = 0; i < size; i++) means[i] /= count;
  for (const { inputs } of choices)
    for (const input of inputs) for (let i = 0; i < size; i++) deviations[i] += (input[i] - means[i]) ** 2;
  for (let i = 0; i < size; i++) deviations[i] = Math.sqrt(deviations[i] / count) + 1e-3;
  return { means, deviations };
}

function shuffle(list, random) {
  for (let i = list.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [list[i], list[j]] = [list[j], list[i]];
  }
}

/** Adds the slope of a choice's −log likelihood. Of many wrong candidates only about `most` are looked at, others each time. */
function addSlope(net, { inputs, right, weight }, { means, deviations, units, size, drop, most, random }, slope) {
  const kept = inputs.map((_, c) => c).filter((c) => right[c] || random() < most / inputs.length);
  const keep = Float64Array.from({ length: size }, () => (random() < drop ? 0 : 1 / (1 - drop)));
  const scaled = kept.map((c) =>
    Float64Array.from(keep, (k, i) => k * Math.max(-4, Math.min(4, (inputs[c][i] - means[i]) / deviations[i]))),
  );
  const hidden = scaled.map((z) =>
    Float64Array.from({ length: units }, (_, u) => {
      let sum = net.biases[u];
      for (let i = 0, at = u * size; i < size; i++, at++) sum += net.weights[at] * z[i];
      return Math.tanh(sum);
    }),
  );
  const scores = hidden.map((h, n) => {
    let sum = 0;
    for (let u = 0; u < units; u++) sum += net.outputs[u] * h[u];
    for (let i = 0; i < size; i++) sum += net.straight[i] * scaled[n][i];
    return sum;
  });
  const top = Math.max(...scores);
  const likely = scores.map((score) => Math.exp(score - top));
  const all = likely.reduce((a, b) => a + b, 0);
  const good = likely.reduce((sum, value, n) => sum + (right[kept[n]] ? value : 0), 0);
  const [weights, biases, outputs, straight] = slope;
  scores.forEach((_, n) => {
    const d = weight * (likely[n] / all - (right[kept[n]] ? likely[n] / good : 0));
    if (Math.abs(d) < 1e-7) return;
    const z = scaled[n];
    for (let i = 0; i < size; i++) straight[i] += d * z[i];
    for (let u = 0; u < units; u++) {
      outputs[u] += d * hidden[n][u];
      const q = d * net.outputs[u] * (1 - hidden[n][u] ** 2);
      biases[u] += q;
      for (let i = 0, at = u * size; i < size; i++, at++) weights[at] += q * z[i];
    }
  });
}

/** Networks as a source file of the core. */
export function networksFile(name, networks) {
  const one = (network) =>
    `  {\n${Object.entries(network)
      .map(([key, list]) => `    ${key}: [${list.join(', ')}],\n`)
      .join('')}  },\n`;
  return `// Written by \`node bench/tracks/fit.mjs\`: fitted on drawn music of many styles and on real compositions.
import type { Network } from './network.js';

export const ${name}: readonly Network[] = [
${networks.map(one).join('')}];
`;
}
