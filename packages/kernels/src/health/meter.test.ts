import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { random } from '../../../core/test/drawn-shots.js';
import { HealthMeter } from './meter.js';

const kernels = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));

const range = (count: number) => Array.from({ length: count }, (_, i) => i);

/** Cells row by row. */
interface Cells {
  readonly columns: number;
  readonly rows: number;
  readonly values: readonly number[];
}

const PART = range(36).map((i) => [i % 6, Math.floor(i / 6)] as const);

/** Blobs of light; in another picture of the seed they have moved so many cells. */
function blobs(seed: number, columns: number, rows: number, moved: number): Cells {
  const next = random(seed);
  const all = range(12).map(
    () => [next() * columns, next() * rows, 1 + next() * 4, 160 * next() - 50, next() < 0.7] as const,
  );
  const values = range(columns * rows).map((i) => {
    const [x, y] = [i % columns, Math.floor(i / columns)];
    const light = all.map(([bx, by, size, height, moves]) => {
      const [dx, dy] = [x - bx - (moves ? moved : 0), y - by];
      return height * Math.exp(-(dx * dx + dy * dy) / size ** 2);
    });
    return Math.min(
      255,
      Math.max(
        0,
        light.reduce((sum, v) => sum + v, 60),
      ),
    );
  });
  return { columns, rows, values };
}

function halved({ columns, rows, values }: Cells): Cells {
  const [across, down] = [columns >> 1, rows >> 1];
  return {
    columns: across,
    rows: down,
    values: range(across * down).map((i) => {
      const at = 2 * Math.floor(i / across) * columns + 2 * (i % across);
      return (values[at]! + values[at + 1]! + values[at + columns]! + values[at + columns + 1]!) / 4;
    }),
  };
}

/** The share of b's structure that is nowhere near in a: every place is tried, all of it. */
function unmatched(a: Cells, b: Cells, reach: number): number {
  const { columns, rows } = b;
  const side = range(2 * reach + 1).map((i) => i - reach);
  const block = (of: Cells, left: number, top: number) =>
    PART.map(([x, y]) => of.values[(top + y) * columns + left + x]!);
  const spread = (values: readonly number[]) => {
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    return values.reduce((sum, v) => sum + Math.abs(v - mean), 0);
  };
  let [left, all] = [0, 2 * 0.8 * columns * rows];
  for (const j of range(Math.floor(rows / 6)))
    for (const i of range(Math.floor(columns / 6))) {
      const own = block(b, 6 * i, 6 * j);
      const places = side.flatMap((y) => side.map((x) => [6 * i + x, 6 * j + y] as const));
      const fits = places
        .filter(([x, y]) => x >= 0 && y >= 0 && x + 6 <= columns && y + 6 <= rows)
        .map(([x, y]) => spread(block(a, x, y).map((value, n) => value - own[n]!)));
      all += spread(own);
      left += Math.max(0, Math.min(spread(own), ...fits) - 0.8 * 36);
    }
  return left / all;
}

/** At three scales, until one explains nearly all. */
function unlike(a: Cells, b: Cells): number {
  const coarse = [halved(a), halved(b)] as const;
  const shares = [
    () => unmatched(halved(coarse[0]), halved(coarse[1]), 8),
    () => unmatched(...coarse, 5),
    () => unmatched(a, b, 3),
  ];
  return shares.reduce((least, share) => (least < 0.08 ? least : Math.min(least, share())), 1);
}

const inLevels = ({ values }: Cells) => Uint16Array.from(values, (value) => Math.round(value * 256));

describe('a picture against the one before it', () => {
  test('how far they differ, and what is nowhere near, are what they are slowly; sizes are any', () => {
    const shares: number[] = [];
    fc.assert(
      fc.property(
        fc.record({
          seed: fc.nat(),
          columns: fc.integer({ min: 24, max: 45 }),
          rows: fc.integer({ min: 24, max: 37 }),
          moved: fc.integer({ min: 2, max: 20 }),
        }),
        ({ seed, columns, rows, moved }) => {
          const [before, now] = [blobs(seed, columns, rows, 0), blobs(seed, columns, rows, moved)];
          const meter = new HealthMeter(kernels);
          for (const picture of [before, now]) meter.addCells(inLevels(picture), columns, rows);
          const found = meter.records(1).differences[0]!;
          const apart = now.values.reduce((sum, value, i) => sum + Math.abs(value - before.values[i]!), 0);
          expect(found.mean).toBeCloseTo(apart / (columns * rows), 1);
          expect(found.unlike).toBeCloseTo(found.mean < 4 ? 0 : unlike(before, now), 3);
          shares.push(found.unlike);
        },
      ),
      { numRuns: 40 },
    );
    expect(shares.filter((share) => share > 0).length).toBeGreaterThan(20);
    expect(shares.filter((share) => share > 0.08).length).toBeGreaterThan(5);
  });

  test('half a sample to the right is a shift of that, of samples as of cells, whatever is left over at the edges', () => {
    const [width, height] = [203, 118];
    const drawn = (moved: number) =>
      Uint8Array.from({ length: width * height }, (_, i) => {
        const [x, y] = [(i % width) - moved, Math.floor(i / width)];
        return Math.round(128 + 50 * Math.sin(x / 9) + 50 * Math.cos(y / 7 + x / 31));
      });
    const meter = new HealthMeter(kernels);
    meter.add(drawn(0), width, height);
    meter.add(drawn(0.5), width, height);
    const [x, y] = meter.records(1).differences[0]!.shift;
    expect(x * 200).toBeCloseTo(0.5, 1);
    expect(y * 200).toBeCloseTo(0, 1);
  });

  test('pictures too small for a cell, or of another size than those before, are taken or refused in words', () => {
    const meter = new HealthMeter(kernels);
    expect(meter.health()).toEqual({ repeats: [], cuts: [], drops: [], hits: [] });
    for (const value of [10, 200, 10]) meter.add(new Uint8Array(6).fill(value), 3, 2);
    expect(meter.records(0).differences).toHaveLength(3);
    expect(() => meter.add(new Uint8Array(64), 8, 8)).toThrow('2 × 2 cells among those of 1 × 1');
  });
});
