// Draws scenes as luma planes and keeps them on disk, so that a second measurement starts at once.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { normal, seeded } from './paint.mjs';
import { SCENES } from './scenes.mjs';

export const FRAMES = 17;
const GRID = 3;

const SOURCE = createHash('sha256').update(readFileSync(new URL('./scenes.mjs', import.meta.url))).update(readFileSync(new URL('./paint.mjs', import.meta.url))).digest('hex').slice(0, 12); // prettier-ignore

/** Where a scene's 17 luma planes are kept, one after another; draws them when they are not there yet. */
export function sequenceFile(name, { width = 640, height = 360, seed = 1 } = {}) {
  const folder = join(tmpdir(), 'idle-bend-sequences');
  const file = join(folder, `${name}-${width}x${height}-${seed}-${SOURCE}.gray`);
  if (!existsSync(file)) {
    mkdirSync(folder, { recursive: true });
    writeFileSync(file, draw(name, width, height, seed));
  }
  return file;
}

/** 17 luma planes of one scene, each `Uint8Array(width · height)`. */
export function sequence(name, { width = 640, height = 360, seed = 1 } = {}) {
  const all = readFileSync(sequenceFile(name, { width, height, seed }));
  return Array.from({ length: FRAMES }, (_, t) => new Uint8Array(all.subarray(t * width * height, (t + 1) * width * height)));
}

function draw(name, width, height, seed) {
  const scene = SCENES[name](width, height, seed * 1000 + 17);
  const out = new Uint8Array(FRAMES * width * height);
  const random = seeded(seed + 99);
  for (let t = 0; t < FRAMES; t++) {
    const luma = scene(t);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (let j = 0; j < GRID; j++) for (let i = 0; i < GRID; i++) sum += luma(x + (i + 0.5) / GRID - 0.5, y + (j + 0.5) / GRID - 0.5);
        const value = sum / (GRID * GRID) + (scene.noise ? scene.noise * normal(random) : 0);
        out[(t * height + y) * width + x] = Math.max(16, Math.min(235, Math.round(value)));
      }
    }
  }
  return out;
}
