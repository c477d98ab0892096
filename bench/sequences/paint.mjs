// What the sequences are painted with: seeded randomness, endless textures, soft shapes.

/** A seeded uniform generator (mulberry32). */
export function seeded(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let z = Math.imul(state ^ (state >>> 15), state | 1);
    z ^= z + Math.imul(z ^ (z >>> 7), z | 61);
    return ((z ^ (z >>> 14)) >>> 0) / 4294967296;
  };
}

const SIZE = 1024;
const MASK = SIZE - 1;

/**
 * An endless luma texture of 1024 × 1024: smooth noise in octaves whose amplitudes fall with frequency, and flat pieces with
 * hard edges in between, as wood, foliage and printed things have. Values about 40 to 210.
 */
export function texture(seed, { finest = 2, contrast = 1, pieces = 60 } = {}) {
  const random = seeded(seed);
  const out = new Float32Array(SIZE * SIZE);
  for (let cells = 4, amplitude = 40; SIZE / cells >= finest; cells *= 2, amplitude *= 0.8) {
    const grid = Float32Array.from({ length: cells * cells }, () => random() * 2 - 1);
    const scale = cells / SIZE;
    for (let y = 0; y < SIZE; y++) {
      const gy = y * scale;
      const j = Math.floor(gy);
      const fy = smooth(gy - j);
      const [r0, r1] = [(j % cells) * cells, ((j + 1) % cells) * cells];
      for (let x = 0; x < SIZE; x++) {
        const gx = x * scale;
        const i = Math.floor(gx);
        const fx = smooth(gx - i);
        const [c0, c1] = [i % cells, (i + 1) % cells];
        const top = grid[r0 + c0] + (grid[r0 + c1] - grid[r0 + c0]) * fx;
        const low = grid[r1 + c0] + (grid[r1 + c1] - grid[r1 + c0]) * fx;
        out[y * SIZE + x] += amplitude * (top + (low - top) * fy);
      }
    }
  }
  for (let n = 0; n < pieces; n++) {
    const [cx, cy, w, h, step, turn] = [
      random() * SIZE,
      random() * SIZE,
      8 + random() * 60,
      8 + random() * 60,
      (random() - 0.5) * 110,
      random() * Math.PI,
    ];
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const reach = Math.ceil(Math.hypot(w, h) / 2) + 2;
    for (let y = -reach; y <= reach; y++) {
      for (let x = -reach; x <= reach; x++) {
        const a = edge(w / 2 - Math.abs(x * c + y * s)) * edge(h / 2 - Math.abs(y * c - x * s));
        out[((Math.floor(cy) + y) & MASK) * SIZE + ((Math.floor(cx) + x) & MASK)] += a * step;
      }
    }
  }
  for (let i = 0; i < out.length; i++) out[i] = 120 + contrast * out[i];
  return (x, y) => {
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [fx, fy] = [x - i, y - j];
    const [r0, r1] = [(j & MASK) * SIZE, ((j + 1) & MASK) * SIZE];
    const [c0, c1] = [i & MASK, (i + 1) & MASK];
    const top = out[r0 + c0] + (out[r0 + c1] - out[r0 + c0]) * fx;
    const low = out[r1 + c0] + (out[r1 + c1] - out[r1 + c0]) * fx;
    return top + (low - top) * fy;
  };
}

const smooth = (u) => u * u * (3 - 2 * u);

/** Coverage of a pixel `inside` pixels within an edge: 0 outside, 1 inside, a ramp one pixel wide between. */
export const edge = (inside) => Math.max(0, Math.min(1, inside + 0.5));

/** Normal noise (Box–Muller). */
export const normal = (random) => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
