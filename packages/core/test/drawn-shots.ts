/** Shots drawn as luma, with the truth about their cuts and repeats: what finding them is measured on. */

export const WIDTH = 320;
export const HEIGHT = 180;

/** A small generator of numbers, the same for the same seed (mulberry32). */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const TILE_WIDTH = 1024;
const TILE_HEIGHT = 512;
const tiles = new Map<number, Float32Array>();

/** Waves that close on a tile, of mean 0 and variance 1. */
function tileOf(seed: number): Float32Array {
  const known = tiles.get(seed);
  if (known) return known;
  const r = random(seed);
  const waves = Array.from({ length: 14 }, () => {
    const length = 9 + 70 * r() ** 2;
    const angle = r() * Math.PI * 2;
    const whole = (share: number, size: number) => (2 * Math.PI * Math.round((share * size) / length)) / size;
    return { kx: whole(Math.cos(angle), TILE_WIDTH), ky: whole(Math.sin(angle), TILE_HEIGHT), phase: r() * 7 };
  });
  const tile = new Float32Array(TILE_WIDTH * TILE_HEIGHT);
  const part = (n: number, by: (i: number) => number) => Float32Array.from({ length: n }, (_, i) => by(i));
  for (const { kx, ky, phase } of waves) {
    // sin(x + y) from sines and cosines of each.
    const [sx, cx] = [part(TILE_WIDTH, (x) => Math.sin(kx * x)), part(TILE_WIDTH, (x) => Math.cos(kx * x))];
    for (let y = 0; y < TILE_HEIGHT; y++) {
      const [sy, cy] = [Math.sin(ky * y + phase), Math.cos(ky * y + phase)];
      for (let x = 0; x < TILE_WIDTH; x++) tile[y * TILE_WIDTH + x]! += sx[x]! * cy + cx[x]! * sy;
    }
  }
  const scale = 1 / Math.sqrt(waves.length / 2);
  for (let i = 0; i < tile.length; i++) tile[i]! *= scale;
  if (tiles.size > 40) tiles.clear();
  tiles.set(seed, tile);
  return tile;
}

/** A smooth texture that goes on for ever, of one brightness and contrast whatever its seed. */
export function texture(seed: number, contrast = 40, tone = 120): (x: number, y: number) => number {
  const tile = tileOf(seed);
  return (x, y) => {
    const [left, top] = [Math.floor(x), Math.floor(y)];
    const [fx, fy] = [x - left, y - top];
    const [x0, x1] = [left & (TILE_WIDTH - 1), (left + 1) & (TILE_WIDTH - 1)];
    const [y0, y1] = [(top & (TILE_HEIGHT - 1)) * TILE_WIDTH, ((top + 1) & (TILE_HEIGHT - 1)) * TILE_WIDTH];
    const above = tile[y0 + x0]! * (1 - fx) + tile[y0 + x1]! * fx;
    const below = tile[y1 + x0]! * (1 - fx) + tile[y1 + x1]! * fx;
    return tone + contrast * (above * (1 - fy) + below * fy);
  };
}

export interface Drawn {
  readonly frames: readonly Uint8Array[];
  readonly cuts: readonly number[];
  readonly repeats: readonly number[];
}

export type Picture = (x: number, y: number) => number;

/** One picture, with the noise a camera and a coder leave. */
export function draw(picture: Picture, noise: number, r: () => number): Uint8Array {
  const data = new Uint8Array(WIDTH * HEIGHT);
  // Coding noise lies in blocks.
  const block = new Float32Array((WIDTH / 8) * Math.ceil(HEIGHT / 8)).map(() => noise * 0.4 * (r() * 2 - 1));
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      data[y * WIDTH + x] =
        Math.max(
          0,
          Math.min(255, picture(x, y) + noise * (r() + r() - 1) + block[(y >> 3) * (WIDTH / 8) + (x >> 3)]!),
        ) + 0.5;
  return data;
}

const moved =
  (picture: Picture, dx: number, dy: number): Picture =>
  (x, y) =>
    picture(x + dx, y + dy);
/** Over a way, as a shutter sees it. */
const smeared =
  (picture: Picture, dx: number, dy: number): Picture =>
  (x, y) =>
    [0, 1, 2, 3, 4].reduce((sum, i) => sum + picture(x + (dx * i) / 5, y + (dy * i) / 5), 0) / 5;

/** Families of what editors bring; each takes a seed. */
export const SHOTS: Readonly<Record<string, (seed: number) => Drawn>> = {
  /** Shots of one tone and one contrast, cut hard. */
  alike(seed) {
    const r = random(seed);
    return sequence(
      r,
      [...Array(4)].map((_, i) => ({
        length: 14,
        picture: (k: number) => moved(texture(seed * 10 + i), 1.5 * k, 0.4 * k),
      })),
    );
  },
  /** The same, of little contrast. */
  soft(seed) {
    const r = random(seed + 20);
    return sequence(
      r,
      [...Array(4)].map((_, i) => ({
        length: 14,
        picture: (k: number) => moved(texture(seed * 10 + i, 9), 1.5 * k, 0.4 * k),
      })),
    );
  },
  /** The same, of different tones. */
  different(seed) {
    const r = random(seed + 1);
    return sequence(
      r,
      [60, 160, 110].map((tone, i) => ({
        length: 16,
        picture: (k: number) => moved(texture(seed * 10 + i, 30, tone), -2 * k, 0),
      })),
    );
  },
  /** One shot with one to three white frames. */
  flashed(seed) {
    const r = random(seed + 2);
    const long = 1 + Math.floor(r() * 3);
    const at = 15 + Math.floor(r() * 8);
    const scene = texture(seed);
    const lit = (k: number) => k >= at && k < at + long;
    return sequence(r, [
      { length: 45, picture: (k) => (lit(k) ? (x, y) => 160 + 0.5 * moved(scene, k, 0)(x, y) : moved(scene, k, 0)) },
    ]);
  },
  /** The same, quite white, so that nothing of the picture is left. */
  whitened(seed) {
    const r = random(seed + 3);
    const long = 1 + Math.floor(r() * 3);
    const scene = texture(seed);
    return sequence(r, [
      { length: 45, picture: (k) => (k >= 20 && k < 20 + long ? () => 250 : moved(scene, 0.7 * k, 0)) },
    ]);
  },
  /** A pan that is whipped round: the picture is drawn out and another part of it in every frame. */
  whipped(seed) {
    const r = random(seed + 4);
    const scene = texture(seed);
    const fastest = 60 + 60 * r();
    let place = 0;
    const places = Array.from({ length: 40 }, (_, k) => (place += fastest * Math.exp(-(((k - 20) / 5) ** 2))));
    return sequence(r, [
      { length: 40, picture: (k) => smeared(moved(scene, places[k]!, 0), places[k]! - (places[k - 1] ?? 0), 0) },
    ]);
  },
  /** Something near that crosses most of the picture quickly. */
  crossing(seed) {
    const r = random(seed + 5);
    const [scene, near] = [texture(seed), texture(seed + 77, 45, 90)];
    const pace = 30 + 25 * r();
    return sequence(r, [
      {
        length: 40,
        picture: (k) => (x, y) => {
          const left = (k - 12) * pace - 260;
          return x > left && x < left + 240 ? near(x - left, y) : scene(x + 0.5 * k, y);
        },
      },
    ]);
  },
  /** A head that turns: the middle of the picture is another from frame to frame, a few times as fast as is sampled. */
  turning(seed) {
    const r = random(seed + 6);
    const [scene, head] = [texture(seed), texture(seed + 55, 45, 130)];
    let turn = 0;
    const turns = Array.from({ length: 40 }, (_, k) => (turn += Math.abs(k - 20) < 3 ? 45 + 20 * r() : 1.5));
    return sequence(r, [
      {
        length: 40,
        picture: (k) => (x, y) =>
          ((x - 160) / 110) ** 2 + ((y - 90) / 85) ** 2 < 1 ? head(x + turns[k]!, y + 0.3 * turns[k]!) : scene(x, y),
      },
    ]);
  },
  /** From one shot to another by degrees, through black or not. */
  faded(seed) {
    const r = random(seed + 7);
    const [a, b] = [texture(seed), texture(seed + 1)];
    const black = seed % 2 === 0;
    const share = (k: number) => Math.max(0, Math.min(1, (k - 14) / 12));
    return sequence(r, [
      {
        length: 40,
        picture: (k) => (x, y) => {
          const s = share(k);
          return black
            ? 16 + (s < 0.5 ? (1 - 2 * s) * (a(x, y) - 16) : (2 * s - 1) * (b(x, y) - 16))
            : (1 - s) * a(x + k, y) + s * b(x, y);
        },
      },
    ]);
  },
  /** Cuts between shots that both move fast. */
  lively(seed) {
    const r = random(seed + 8);
    return sequence(
      r,
      [...Array(3)].map((_, i) => ({
        length: 16,
        picture: (k: number) => smeared(moved(texture(seed * 10 + i), 11 * k, 5 * k), 11, 5),
      })),
    );
  },
  /** A hand that shakes. */
  shaken(seed) {
    const r = random(seed + 9);
    const scene = texture(seed);
    const at = Array.from({ length: 40 }, () => [9 * (r() - 0.5), 9 * (r() - 0.5)] as const);
    return sequence(r, [{ length: 40, picture: (k) => moved(scene, at[k]![0], at[k]![1]) }]);
  },
  /** To black and back, hard. */
  blackened(seed) {
    const r = random(seed + 10);
    return sequence(r, [
      { length: 15, picture: (k) => moved(texture(seed), k, 0) },
      { length: 12, picture: () => () => 16 },
      { length: 15, picture: (k) => moved(texture(seed + 1), k, 0) },
    ]);
  },
};

interface Stretch {
  readonly length: number;
  readonly picture: (k: number) => Picture;
}

function sequence(r: () => number, stretches: readonly Stretch[], noise = 1.5): Drawn {
  const frames = stretches.flatMap(({ length, picture }) =>
    Array.from({ length }, (_, k) => draw(picture(k), noise, r)),
  );
  let at = 0;
  return { frames, cuts: stretches.slice(1).map((_, i) => (at += stretches[i]!.length)), repeats: [] };
}

/** A pan by hand, whose steps are long and short, with some repeats or none. */
export function handHeld(seed: number, repeating: boolean): Drawn {
  const r = random(seed);
  const scene = texture(seed, 12 + 40 * r());
  const frames: Uint8Array[] = [];
  const repeats: number[] = [];
  let [x, y] = [0, 0];
  for (let k = 0; k < 60; k++) {
    if (repeating && k > 3 && k < 57 && k % 7 === 4) {
      repeats.push(k);
      frames.push(again(frames.at(-1)!, r));
      continue;
    }
    [x, y] = [x + 5 * (r() - 0.5) + 1, y + 5 * (r() - 0.5)];
    frames.push(draw(moved(scene, x, y), 1.5, r));
  }
  return { frames, cuts: [], repeats };
}

/** A repeat is coded by what differs from the frame before: next to nothing. */
const again = (frame: Uint8Array, r: () => number) =>
  frame.map((v) => Math.max(0, Math.min(255, v + Math.round((r() + r() - 1) * 0.6))));

/** A pan of so many samples a frame, with repeats of three kinds of rhythm, or none. */
export function panned(seed: number, pace: number, pattern: 'none' | 'some' | 'twos', noise = 1): Drawn {
  const r = random(seed);
  const scene = texture(seed);
  const repeats: number[] = [];
  const frames: Uint8Array[] = [];
  let place = 0;
  for (let k = 0; k < 60; k++) {
    const repeat =
      k > 3 && k < 57 && (pattern === 'twos' ? k % 2 === 1 : pattern === 'some' && (k % 13 === 7 || k % 17 === 5));
    if (repeat) repeats.push(k);
    else place += pace;
    const drawn = draw(moved(scene, place, place * 0.3), noise, r);
    frames.push(repeat ? again(frames.at(-1)!, r) : drawn);
  }
  return { frames, cuts: [], repeats };
}
