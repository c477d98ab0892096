// Sequences on which in-betweens go wrong more or less: how hard each is depends on its seed. Drawn as `scenes.mjs` says.
import { edge, seeded, texture } from './paint.mjs';

const TAU = 2 * Math.PI;
const between = (random, low, high) => low + (high - low) * random();

/** Discs of texture with a tone of their own, over a ground: (x, y) → luma. */
function discs(ground, paint, all) {
  return (x, y) => {
    let value = ground(x, y);
    for (const { cx, cy, size, tone, turn = 0 } of all) {
      const [dx, dy] = [x - cx, y - cy];
      const cover = edge(size - Math.hypot(dx, dy));
      if (cover === 0) continue;
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      value += cover * (paint(dx * c + dy * s + tone * 13, dy * c - dx * s + tone * 7) + tone - value);
    }
    return value;
  };
}

export const FAILURES = {
  /** Discs that cross each other's ways. */
  crossing: (w, h, seed) => {
    const random = seeded(seed);
    const speed = between(random, 4, 34) * (w / 640);
    const [ground, paint] = [texture(seed, { contrast: between(random, 0.4, 1) }), texture(seed + 1)];
    const all = Array.from({ length: 3 + Math.floor(random() * 8) }, () => ({
      a: random() * TAU,
      size: h * between(random, 0.06, 0.2),
      tone: between(random, -60, 60),
      x: random() * w,
      y: random() * h,
      spin: between(random, -0.1, 0.1),
    }));
    return (t) =>
      discs(
        ground,
        paint,
        all.map(({ a, size, tone, x, y, spin }) => ({
          cx: x + Math.cos(a) * speed * (t - 8),
          cy: y + Math.sin(a) * speed * 0.7 * (t - 8),
          size,
          tone,
          turn: spin * t,
        })),
      );
  },
  /** A large disc behind a fence, before a ground that moves the other way. */
  occlusion: (w, h, seed) => {
    const random = seeded(seed);
    const speed = between(random, 3, 26) * (w / 640);
    const [ground, paint, wood] = [texture(seed), texture(seed + 1), texture(seed + 2, { contrast: 0.5 })];
    const [gap, thick, back] = [w * between(random, 0.05, 0.2), w * between(random, 0.01, 0.05), between(random, 0, 5)];
    const size = h * between(random, 0.12, 0.34);
    return (t) => {
      const scene = discs((x, y) => ground(x + back * t, y), paint, [
        { cx: w * 0.3 + speed * (t - 4), cy: h * 0.5 + 20 * Math.sin(t / 4), size, tone: 30 },
      ]);
      return (x, y) => {
        const off = Math.abs(x - gap * Math.round(x / gap));
        const cover = edge(thick / 2 - off);
        return cover === 1 ? wood(x, y) - 30 : scene(x, y) * (1 - cover) + cover * (wood(x, y) - 30);
      };
    };
  },
  /** The hand-held camera swings and shakes, with a shutter open for half of each frame. */
  blur: (w, h, seed) => {
    const random = seeded(seed);
    const reach = between(random, 2, 60) * (w / 640);
    const [a, b, c] = [random() * TAU, between(random, 0.05, 0.5), between(random, 0.05, 0.5)];
    const paint = texture(seed);
    const scene = (t) => {
      const [px, py] = [reach * (Math.sin(a + b * t) + 0.3 * Math.sin(1.7 * b * t)), reach * 0.6 * Math.sin(c * t)];
      return (x, y) => paint(x + px, y + py);
    };
    return Object.assign(scene, { shutter: 0.5 });
  },
  /** A lamp flashes for a frame, over the whole picture or a part of it. */
  flash: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed);
    const at = [4 * Math.floor(between(random, 0, 2)), 12 + 4 * Math.floor(between(random, 0, 2))];
    const [power, reach, speed] = [
      between(random, 0.15, 3),
      random() < 0.5 ? Infinity : w * between(random, 0.1, 0.4),
      between(random, 0, 9),
    ];
    const [lx, ly] = [w * random(), h * random()];
    return (t) => {
      const lit = at.includes(t);
      return (x, y) => {
        const value = paint(x + speed * t, y);
        return lit
          ? Math.min(
              235,
              value *
                (1 + power * (reach === Infinity ? 1 : Math.exp(-(((x - lx) ** 2 + (y - ly) ** 2) / (reach * reach))))),
            )
          : value;
      };
    };
  },
  /** A ground that folds like water. */
  water: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed, { contrast: between(random, 0.6, 1.2) });
    const waves = Array.from({ length: 6 }, () => ({
      kx: between(random, -0.05, 0.05),
      ky: between(random, -0.05, 0.05),
      speed: between(random, -0.6, 0.6),
      reach: between(random, 1, 7),
      phase: random() * TAU,
    }));
    return (t) => (x, y) => {
      let [px, py] = [x, y];
      for (const { kx, ky, speed, reach, phase } of waves) {
        const now = reach * Math.sin(kx * x + ky * y + speed * t + phase);
        px += now * Math.sign(kx);
        py += now * Math.sign(ky);
      }
      return paint(px, py);
    };
  },
  /** A disc that turns fast. */
  spin: (w, h, seed) => {
    const random = seeded(seed);
    const turn = between(random, 0.02, 0.4);
    const [ground, paint] = [texture(seed, { contrast: 0.7 }), texture(seed + 1)];
    return (t) => discs(ground, paint, [{ cx: w / 2, cy: h / 2, size: h * 0.44, tone: 10, turn: turn * t }]);
  },
  /** A wheel of many spokes. */
  wheel: (w, h, seed) => {
    const random = seeded(seed);
    const [turn, spokes, thick] = [between(random, 0.01, 0.07), 8 + Math.floor(random() * 30), between(random, 1, 6)];
    const ground = texture(seed, { contrast: 0.55 });
    return (t) => (x, y) => {
      const [dx, dy] = [x - w / 2, y - h / 2];
      const r = Math.hypot(dx, dy);
      const value = ground(x, y);
      if (r > h * 0.46) return value;
      const part = TAU / spokes;
      const angle = Math.atan2(dy, dx) - turn * t;
      const off = Math.abs(angle - part * Math.round(angle / part)) * r;
      return value + edge(thick - off) * (222 - value);
    };
  },
  /** A calm pan or push: nothing should be wrong here. */
  calm: (w, h, seed) => {
    const random = seeded(seed);
    const [vx, vy, grow] = [between(random, -9, 9), between(random, -4, 4), between(random, -0.01, 0.01)];
    const paint = texture(seed);
    const scene = (t) => {
      const scale = Math.exp(grow * t);
      return (x, y) => paint((x - w / 2) * scale + vx * t, (y - h / 2) * scale + vy * t);
    };
    return Object.assign(scene, { noise: random() < 0.5 ? between(random, 0, 7) : 0 });
  },
  cut: (w, h, seed) => {
    const random = seeded(seed);
    const [one, other] = [texture(seed), texture(seed + 5, { contrast: 0.8 })];
    const at = between(random, 3, 13);
    return (t) => (t < at ? (x, y) => one(x + 3.1 * t, y) : (x, y) => other(x - 2.2 * t, y + 1.5 * t) + 12);
  },
};
