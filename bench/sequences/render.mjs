// Draws scenes as luma planes and keeps them on disk, so that a second measurement starts at once.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { normal, seeded } from './paint.mjs';
import { FAILURES } from './failures.mjs';
import { SCENES } from './scenes.mjs';
import { TRAPS } from './traps.mjs';

export const FRAMES = 17;
const GRID = 3;
/** Moments an open shutter is drawn with. */
const SHUTTERS = 9;

const ALL = { ...SCENES, ...FAILURES, ...TRAPS };
const digest = createHash('sha256');
for (const file of ['./scenes.mjs', './failures.mjs', './traps.mjs', './paint.mjs'])
  digest.update(readFileSync(new URL(file, import.meta.url)));
const SOURCE = digest.digest('hex').slice(0, 12);

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
  return Array.from(
    { length: FRAMES },
    (_, t) => new Uint8Array(all.subarray(t * width * height, (t + 1) * width * height)),
  );
}

function draw(name, width, height, seed) {
  const scene = ALL[name](width, height, seed * 1000 + 17);
  const out = new Uint8Array(FRAMES * width * height);
  const random = seeded(seed + 99);
  for (let t = 0; t < FRAMES; t++) {
    const moments = scene.shutter
      ? Array.from({ length: SHUTTERS }, (_, i) => scene(t + scene.shutter * ((i + 0.5) / SHUTTERS - 0.5)))
      : [scene(t)];
    const grid = scene.shutter ? 1 : GRID;
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (const luma of moments)
          for (let j = 0; j < grid; j++)
            for (let i = 0; i < grid; i++) sum += luma(x + (i + 0.5) / grid - 0.5, y + (j + 0.5) / grid - 0.5);
        const value = sum / (grid * grid * moments.length) + (scene.noise ? scene.noise * normal(random) : 0);
        out[(t * height + y) * width + x] = Math.max(16, Math.min(235, Math.round(value)));
      }
    }
  }
  return out;
}
