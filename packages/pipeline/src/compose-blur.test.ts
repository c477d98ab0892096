import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { exposed } from '@idle-bend/core/blur';
import { NO_COLOUR_TAGS, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { Blur } from '@idle-bend/core/model';
import { flowSampleAt, plainInterpolation, sampleAt, type Sample } from '@idle-bend/core/sampling';
import { Exposure, Flow, Kernels } from '@idle-bend/kernels';
import { FrameComposer } from './compose.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const kernels = new Kernels(module);
const [WIDTH, HEIGHT, FRAMES] = [192, 108, 40];
const format: FrameFormat = {
  width: WIDTH,
  height: HEIGHT,
  layout: { model: 'gray', bitDepth: 8, chromaShiftX: 0, chromaShiftY: 0, alpha: false },
  colour: NO_COLOUR_TAGS,
  pixelAspect: { num: 1, den: 1 },
};

const { sin, tanh, hypot, floor: down, round, max, min } = Math;
const WAVES = Array.from({ length: 9 }, (_, i) => {
  const [turn, length] = [i * 2.399, 9 + ((i * 7919) % 31)];
  return { x: (2 * Math.PI * Math.cos(turn)) / length, y: (2 * Math.PI * Math.sin(turn)) / length, at: i };
});

/** An endless wooden floor: waves of many directions and lengths, 0…255. */
function floor(x: number, y: number): number {
  let sum = 0;
  for (const wave of WAVES) sum += sin(wave.x * x + wave.y * y + wave.at);
  return 128 + 70 * tanh(sum / 3);
}

type Scene = (x: number, y: number, time: number) => number;
/** A whip: the camera pans 5 pixels a source frame and a little down. */
const whip: Scene = (x, y, time) => floor(x + 5 * time, y + 0.6 * time);
/** A marble of radius 16 rolls the other way across it. */
const marble: Scene = (x, y, time) =>
  hypot(x - 20 - 4 * time, y - 54) < 16 ? 235 - 3 * hypot(x - 20 - 4 * time, y - 54) : whip(x, y, time);

const draw = (scene: Scene, time: number): Uint8Array =>
  Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) =>
    max(0, min(255, round(scene(i % WIDTH, down(i / WIDTH), time)))),
  );

function composerOf(scene: Scene) {
  const frames: Frame[] = Array.from({ length: FRAMES }, (_, n) => ({ format, data: draw(scene, n) }));
  const flow = new Flow(module);
  const means = {
    flow,
    exposure: new Exposure(module),
    pair: flow.pair.bind(flow),
    level: 'default' as const,
    cacheBytes: 1e8,
  };
  return new FrameComposer(
    kernels,
    { format, frameCount: FRAMES, frames: (wanted) => Promise.resolve(wanted.map((n) => frames[n]!)) },
    means,
  );
}

/** Frame k of that footage at `speed` times its own. */
const sampleOf = (blur: Blur, speed: number, k: number): Sample => {
  const source = { frames: FRAMES, droppedRepeats: null };
  const position = (t: number) => speed * t;
  const moment = (s: number) => flowSampleAt(source, plainInterpolation('flow'), 'hold', s);
  return exposed(
    sampleAt(position(k), FRAMES, 'flow', 'hold'),
    blur,
    { position, speed: () => speed, moment, from: 0, to: 100 },
    k,
  );
};

/** What falls on the film from `from` to `to`, source frames: the mean of 64 moments. */
function truth(scene: Scene, from: number, to: number): Float64Array {
  const sum = new Float64Array(WIDTH * HEIGHT);
  for (let i = 0; i < 64; i++) {
    const time = from + ((to - from) * (i + 0.5)) / 64;
    for (let at = 0; at < sum.length; at++) sum[at]! += scene(at % WIDTH, down(at / WIDTH), time) / 64;
  }
  return sum;
}

/** Peak signal to noise, the margin left out, where what comes in from outside cannot be known. */
function decibels(a: ArrayLike<number>, b: ArrayLike<number>, margin = 12): number {
  let [sum, count] = [0, 0];
  for (let y = margin; y < HEIGHT - margin; y++)
    for (let x = margin; x < WIDTH - margin; x++, count++) sum += (a[y * WIDTH + x]! - b[y * WIDTH + x]!) ** 2;
  return 10 * Math.log10((255 * 255 * count) / sum);
}

const SHUTTER: Blur = { kind: 'shutter', angle: 180, always: false };

describe('motion blur against the light that really falls', () => {
  test.each([
    ['a whip', whip, 34],
    ['a marble rolling against it', marble, 32],
  ])('%s at 8 times its speed: the mean of 64 moments of the truth', async (_, scene, least) => {
    const composer = composerOf(scene);
    // 180° less what the footage has of its own: 7/16 of a timeline frame, 3.5 source frames.
    const expected = truth(scene, 16 - 1.75, 16 + 1.75);
    const blurred = (await composer.compose(sampleOf(SHUTTER, 8, 2))).data;
    expect(decibels(blurred, expected)).toBeGreaterThan(least);
    const plain = (await composer.compose(sampleOf({ kind: 'none' }, 8, 2))).data;
    expect(decibels(plain, expected)).toBeLessThan(decibels(blurred, expected) - 8);
  });

  test('at 10 times there is no banding: what is left is as even as the truth', async () => {
    const edge: Scene = (x, y, time) => (x + 5 * time < 180 ? 60 : 200) + 0.1 * (floor(x, y) - 128);
    const composer = composerOf((x, y, time) => edge(x, y, time) + 0.25 * (floor(x + 5 * time, y) - 128));
    const { data } = await composer.compose(sampleOf({ ...SHUTTER, always: true, angle: 360 }, 10, 2));
    // Across the ramp an edge leaves, no step from sample to sample stands out: 140 levels over 50 pixels are 2.8 a pixel.
    const row = Array.from({ length: 40 }, (_, i) => data[54 * WIDTH + 66 + i]!);
    const steps = row.slice(1).map((value, i) => Math.abs(value - row[i]!));
    expect(Math.max(...steps)).toBeLessThan(9);
  });

  test('the smear along the common motion comes near it too, for a tenth of the work', async () => {
    const expected = truth(whip, 16 - 1.75, 16 + 1.75);
    const smeared = (
      await composerOf(whip).compose(sampleOf({ kind: 'smear', strength: 1, fade: 0, always: false }, 8, 2))
    ).data;
    expect(decibels(smeared, expected)).toBeGreaterThan(32);
  });

  test('at normal speed, and where nothing moves, frames pass untouched', async () => {
    expect(sampleOf(SHUTTER, 1, 7)).toEqual({ kind: 'source', frame: 7 });
    expect(sampleOf({ ...SHUTTER, always: true }, 0, 7)).toEqual({ kind: 'source', frame: 0 });
    const still = composerOf((x, y) => floor(x, y));
    expect(
      decibels(
        (await still.compose(sampleOf(SHUTTER, 8, 2))).data,
        draw((x, y) => floor(x, y), 0),
      ),
    ).toBe(Infinity);
  });
});
