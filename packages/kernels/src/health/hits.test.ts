import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { HIT_SCENES } from '../../../core/test/drawn-hits.js';
import { HEIGHT, panned, WIDTH } from '../../../core/test/drawn-shots.js';
import { HealthMeter } from './meter.js';

const kernels = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));

/** Seeds nobody tuned on. */
const SEEDS = [1013, 2029];

function look(frames: readonly Uint8Array[]) {
  const meter = new HealthMeter(kernels);
  for (const frame of frames) meter.add(frame, WIDTH, HEIGHT);
  return meter.health();
}

describe('hits drawn with noise, some with a camera that pans or shakes', () => {
  let [all, met] = [0, 0];
  test.each(Object.keys(HIT_SCENES))('%s: most are among the first five that are found', (family) => {
    let [hits, found] = [0, 0];
    for (const seed of SEEDS) {
      const { frames, hits: truth } = HIT_SCENES[family]!(seed);
      const first = look(frames).hits.slice(0, 5);
      hits += truth.length;
      found += truth.filter((at) => first.some(({ frame }) => Math.abs(frame - at) <= 1)).length;
    }
    [all, met] = [all + hits, met + found];
    expect(found / hits).toBeGreaterThanOrEqual(0.5);
  });

  test('together at least 0.8 of them', () => {
    expect(met / all).toBeGreaterThanOrEqual(0.8);
  });
});

test('a pan hits nothing; a flash is its first bright frame', () => {
  const { hits } = look(panned(1013, 1.5, 'none').frames);
  expect(Math.max(0, ...hits.map(({ strength }) => strength))).toBeLessThan(6);
  const { frames, hits: truth } = HIT_SCENES['flash']!(3037);
  const flashes = look(frames).hits.slice(0, truth.length);
  expect(flashes.map(({ frame }) => frame).sort((a, b) => a - b)).toEqual(truth);
  expect(flashes.every(({ kind }) => kind === 'flash')).toBe(true);
});
