import { readFileSync } from 'node:fs';
import { handHeld, HEIGHT, panned, SHOTS, WIDTH } from '../../../core/test/drawn-shots.js';
import { describe, expect, test } from '@jest/globals';
import type { Health } from '@idle-bend/core/health';
import { HealthMeter } from './meter.js';

const kernels = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));

/** Seeds nobody tuned on. */
const SEEDS = [1009, 2003, 3001, 4007];

const drawn = new Map<string, ReturnType<typeof panned>>();

/** Drawn once. */
function pan(seed: number, pace: number, pattern: 'none' | 'some' | 'twos') {
  const key = `${seed} ${pace} ${pattern}`;
  if (!drawn.has(key)) drawn.set(key, panned(seed, pace, pattern));
  return drawn.get(key)!;
}

function look(frames: readonly Uint8Array[]): Health {
  const meter = new HealthMeter(kernels);
  for (const frame of frames) meter.add(frame, WIDTH, HEIGHT);
  return meter.health();
}

/** Hits, misses and false ones over all seeds of a family. */
function counted(
  make: (seed: number) => { frames: readonly Uint8Array[]; truth: readonly number[] },
  found: (health: Health) => readonly number[],
) {
  let [hits, misses, extra] = [0, 0, 0];
  for (const seed of SEEDS) {
    const { frames, truth } = make(seed);
    const list = found(look(frames));
    hits += truth.filter((n) => list.includes(n)).length;
    misses += truth.filter((n) => !list.includes(n)).length;
    extra += list.filter((n) => !truth.includes(n)).length;
  }
  return { hits, misses, extra };
}

describe('cuts of drawn shots', () => {
  const all = { hits: 0, misses: 0, extra: 0 };
  test.each(Object.keys(SHOTS))('%s: one missed or false at most, and none false where nothing is cut', (family) => {
    const made = (seed: number) => {
      const { frames, cuts } = SHOTS[family]!(seed);
      return { frames, truth: cuts };
    };
    const { hits, misses, extra } = counted(made, ({ cuts }) => cuts);
    all.hits += hits;
    all.misses += misses;
    all.extra += extra;
    expect([misses <= 1, extra <= (hits + misses > 0 ? 1 : 0)]).toEqual([true, true]);
  });

  test('all together F is 0.95 at least', () => {
    expect(all.hits).toBeGreaterThan(40);
    expect((2 * all.hits) / (2 * all.hits + all.misses + all.extra)).toBeGreaterThanOrEqual(0.95);
  });
});

test.each([0.1, 0.15, 0.5, 2, 6])(
  'repeats in a pan of %f samples a frame: nearly every one, and nearly no false one',
  (pace) => {
    const sums = (['none', 'some', 'twos'] as const).map((pattern) =>
      counted(
        (seed) => ({ frames: pan(seed, pace, pattern).frames, truth: pan(seed, pace, pattern).repeats }),
        ({ repeats }) => repeats,
      ),
    );
    const [hits, misses, extra] = (['hits', 'misses', 'extra'] as const).map((key) =>
      sums.reduce((sum, one) => sum + one[key], 0),
    ) as [number, number, number];
    expect(hits / (hits + misses)).toBeGreaterThanOrEqual(0.98);
    expect(hits / (hits + extra)).toBeGreaterThanOrEqual(0.98);
  },
);

test('repeats of a shot by hand: all of them, and hardly a step that is short by chance', () => {
  const both = [true, false].map((repeating) =>
    counted(
      (seed) => ({ frames: handHeld(seed, repeating).frames, truth: handHeld(seed, repeating).repeats }),
      ({ repeats }) => repeats,
    ),
  );
  const [hits, misses, extra] = (['hits', 'misses', 'extra'] as const).map((key) =>
    both.reduce((sum, one) => sum + one[key], 0),
  ) as [number, number, number];
  expect([hits + misses, hits / (hits + misses) >= 0.95]).toEqual([32, true]);
  // Of some 450 frames; steps that are short by chance and repeats look alike but for how far the whole picture went.
  expect(extra).toBeLessThanOrEqual(4);
});
