import { draw, HEIGHT, type Picture, random, texture, WIDTH } from './drawn-shots.js';

/** Pictures of things that hit something, and the frames at which they do. */
export interface DrawnHits {
  readonly frames: readonly Uint8Array[];
  readonly hits: readonly number[];
}

interface Ball {
  readonly x: number;
  readonly y: number;
  readonly radius: number;
  readonly tone: number;
}

/** What is in the picture at each frame, and what the light adds. */
interface Played {
  readonly balls: readonly (readonly Ball[])[];
  readonly light?: readonly number[];
  /** How far the camera is jolted. */
  readonly jolts?: readonly number[];
  readonly hits: readonly number[];
}

const FRAMES = 96;

/** Over a textured ground, seen by a camera that pans or shakes a little, with the noise of a camera and a coder. */
function filmed(seed: number, { balls, light, jolts, hits }: Played): DrawnHits {
  const r = random(seed * 7 + 3);
  const ground = texture(seed % 40, 14 + 22 * r(), 90 + 50 * r());
  const noise = 1 + 6 * r();
  const [pan, shake] = [r() < 0.4 ? 1.5 * (r() - 0.5) : 0, r() < 0.4 ? 0.8 * r() : 0];
  const still = r() < 0.3;
  const frames = balls.map((there, k) => {
    const [dx, dy] = still
      ? [jolts?.[k] ?? 0, 0]
      : [pan * k + shake * (r() - 0.5) + (jolts?.[k] ?? 0), shake * (r() - 0.5) + 0.4 * (jolts?.[k] ?? 0)];
    const picture: Picture = (x, y) => {
      let value = ground(x + dx, y + dy);
      for (const ball of there) {
        const away = Math.hypot(x + dx - pan * k - ball.x, y - ball.y);
        const cover = Math.min(1, Math.max(0, ball.radius - away + 0.5));
        // A spoke on it, so that it is no flat disc.
        const mark = Math.abs(x - ball.x) < 3 ? 26 : 0;
        if (cover > 0) value += cover * (ball.tone + mark - value);
      }
      return value + (light?.[k] ?? 0);
    };
    return draw(picture, noise, r);
  });
  return { frames, hits };
}

const tones = (r: () => number) => (r() < 0.5 ? 20 + 20 * r() : 210 + 30 * r());

/** Families of hits; each takes a seed. */
export const HIT_SCENES: Readonly<Record<string, (seed: number) => DrawnHits>> = {
  /** A ball falls and bounces. */
  bounce(seed) {
    const r = random(seed);
    const [radius, gravity, lossy] = [10 + 10 * r(), 0.15 + 0.35 * r(), 0.6 + 0.25 * r()];
    const floor = HEIGHT - 20 - radius;
    let [x, y, vy] = [60 + 60 * r(), 20 + 50 * r(), 0];
    const vx = 2 * r();
    const tone = tones(r);
    const hits: number[] = [];
    const balls = Array.from({ length: FRAMES }, (_, k) => {
      const here = [{ x, y, radius, tone }];
      [x, vy] = [x + vx, vy + gravity];
      y += vy;
      if (y > floor) {
        [y, vy] = [floor - lossy * (y - floor), -lossy * vy];
        if (Math.abs(vy) > 1.2 && k < FRAMES - 4) hits.push(k + 1);
      }
      return here;
    });
    return filmed(seed, { balls, hits });
  },
  /** It goes from wall to wall. */
  walls(seed) {
    const r = random(seed + 11);
    const radius = 9 + 10 * r();
    let [x, y, vx, vy] = [80 + 100 * r(), 60 + 40 * r(), (3 + 3 * r()) * (r() < 0.5 ? -1 : 1), 1 * (r() - 0.5)];
    const tone = tones(r);
    const hits: number[] = [];
    const balls = Array.from({ length: FRAMES }, (_, k) => {
      const here = [{ x, y, radius, tone }];
      [x, y] = [x + vx, y + vy];
      if (x < radius + 10 || x > WIDTH - radius - 10) {
        vx = -vx;
        if (k > 3 && k < FRAMES - 5) hits.push(k + 1);
      }
      if (y < 30 || y > HEIGHT - 30) vy = -vy;
      return here;
    });
    return filmed(seed + 1, { balls, hits });
  },
  /** It slides and is stopped dead. */
  stop(seed) {
    const r = random(seed + 23);
    const radius = 10 + 12 * r();
    const at = 25 + Math.floor(45 * r());
    const speed = 2 + 2 * r();
    const end = WIDTH - 40 - 60 * r();
    const tone = tones(r);
    const y = 50 + 80 * r();
    const balls = Array.from({ length: FRAMES }, (_, k) => [{ x: end - speed * Math.max(0, at - k), y, radius, tone }]);
    return filmed(seed + 2, { balls, hits: [at] });
  },
  /** One strikes another that lies still, and stays where it was. */
  strike(seed) {
    const r = random(seed + 37);
    const radius = 10 + 8 * r();
    const at = 30 + Math.floor(35 * r());
    const speed = 2 + 2.5 * r();
    const middle = 140 + 40 * r();
    const y = 60 + 60 * r();
    const [a, b] = [tones(r), tones(r)];
    const balls = Array.from({ length: FRAMES }, (_, k) => [
      { x: middle - radius - speed * Math.max(0, at - k), y, radius, tone: a },
      { x: middle + radius + 0.9 * speed * Math.max(0, k - at), y, radius, tone: b },
    ]);
    return filmed(seed + 3, { balls, hits: [at] });
  },
  /** It falls, and breaks into pieces. */
  burst(seed) {
    const r = random(seed + 53);
    const at = 30 + Math.floor(35 * r());
    const [x, y] = [100 + 120 * r(), HEIGHT - 45];
    const pieces = Array.from({ length: 9 }, () => ({ vx: 5 * (r() - 0.5), vy: -3.5 * r() }));
    const tone = tones(r);
    const balls = Array.from({ length: FRAMES }, (_, k) =>
      k <= at
        ? [{ x, y: y - 0.06 * (at - k) ** 2 - 1.5 * (at - k), radius: 16, tone }]
        : pieces.map(({ vx, vy }) => {
            const t = k - at;
            return { x: x + vx * t, y: Math.min(y, y + vy * t + 0.08 * t * t), radius: 6, tone };
          }),
    );
    return filmed(seed + 4, { balls, hits: [at] });
  },
  /** A light goes off while something swings. */
  flash(seed) {
    const r = random(seed + 71);
    const times = [20 + Math.floor(20 * r()), 55 + Math.floor(20 * r())];
    const bright = 18 + 50 * r();
    const light = Array.from({ length: FRAMES }, (_, k) =>
      times.reduce((sum, at) => sum + (k >= at && k < at + 4 ? bright * 0.5 ** (k - at) : 0), 0),
    );
    return filmed(seed + 5, { balls: swings(r), light, hits: times });
  },
  /** What falls shakes the camera. */
  jolt(seed) {
    const r = random(seed + 89);
    const at = 35 + Math.floor(30 * r());
    const [x, floor] = [120 + 80 * r(), HEIGHT - 50];
    const tone = tones(r);
    const balls = Array.from({ length: FRAMES }, (_, k) => [
      { x, y: k <= at ? floor - 0.1 * (at - k) ** 2 - 2 * (at - k) : floor, radius: 24, tone },
    ]);
    const jolts = balls.map((_, k) => (k <= at ? 0 : 3 * Math.cos(2.2 * (k - at)) * 0.75 ** (k - at)));
    return filmed(seed + 6, { balls, jolts, hits: [at] });
  },
  /** Two meet and part, with something swinging beside them. */
  meet(seed) {
    const r = random(seed + 97);
    const radius = 9 + 7 * r();
    const at = 30 + Math.floor(35 * r());
    const [u, v] = [2 + 2 * r(), 1 + 2 * r()];
    const [x, y] = [180 + 30 * r(), 50 + 30 * r()];
    const [a, b] = [tones(r), tones(r)];
    const swinging = swings(r);
    const balls = Array.from({ length: FRAMES }, (_, k) => {
      const t = k - at;
      const [left, right] = [x - radius + (t < 0 ? u : -v) * t, x + radius + (t < 0 ? -v : u) * t];
      return [{ x: left, y, radius, tone: a }, { x: right, y, radius, tone: b }, ...swinging[k]!];
    });
    return filmed(seed + 7, { balls, hits: [at] });
  },
};

/** Something that swings evenly, low in the picture: it hits nothing. */
function swings(r: () => number): Ball[][] {
  const [phase, period, tone] = [7 * r(), 50 + 30 * r(), tones(r)];
  return Array.from({ length: FRAMES }, (_, k) => [
    { x: 90 + 50 * Math.sin((2 * Math.PI * k) / period + phase), y: HEIGHT - 40, radius: 12, tone },
  ]);
}
