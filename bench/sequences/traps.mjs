// Sequences that mislead a search for motion: patterns that repeat, layers seen through each other, ways that break off, light that
// blinks. How hard each is depends on its seed. Drawn as `scenes.mjs` says.
import { edge, seeded, texture } from './paint.mjs';

const TAU = 2 * Math.PI;
const between = (random, low, high) => low + (high - low) * random();
const wrap = (value, period) => value - period * Math.floor(value / period);

/** `base` with a disc of `paint` at (cx, cy), turned. */
const disc = (base, paint, { cx, cy, size, tone, turn = 0 }) => {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return (x, y) => {
    const [dx, dy] = [x - cx, y - cy];
    const cover = edge(size - Math.hypot(dx, dy));
    const value = base(x, y);
    return cover === 0 ? value : value + cover * (paint(dx * c + dy * s + 90, dy * c - dx * s + 40) + tone - value);
  };
};

export const TRAPS = {
  /** The camera goes along a fence of equal pales, the ground behind it slower. */
  fence: (w, h, seed) => {
    const random = seeded(seed);
    const [ground, wood] = [texture(seed), texture(seed + 1, { contrast: between(random, 0.05, 0.4) })];
    const gap = w * between(random, 0.03, 0.08);
    const [thick, pace] = [gap * between(random, 0.4, 0.75), between(random, 0.06, 0.3) * gap];
    const [back, tone] = [pace * between(random, 0.1, 0.6), between(random, 20, 60)];
    return (t) => (x, y) => {
      const off = Math.abs(wrap(x + pace * t, gap) - gap / 2);
      const cover = edge(thick / 2 - off) * edge(y - h * 0.2) * edge(h * 0.85 - y);
      const behind = ground(x + back * t, y);
      return behind + cover * (wood(x + pace * t, y) + tone - behind);
    };
  },
  /** Waves that run through each other over a bed that stays. */
  ripples: (w, h, seed) => {
    const random = seeded(seed);
    const bed = texture(seed, { contrast: between(random, 0.1, 0.5) });
    const waves = Array.from({ length: 4 }, () => {
      const [angle, length] = [random() * TAU, w * between(random, 0.015, 0.07)];
      return {
        kx: (Math.cos(angle) * TAU) / length,
        ky: (Math.sin(angle) * TAU) / length,
        speed: between(random, 0.2, 1.1),
        light: between(random, 6, 22),
        phase: random() * TAU,
      };
    });
    return (t) => (x, y) =>
      waves.reduce((sum, v) => sum + v.light * Math.sin(v.kx * x + v.ky * y + v.speed * t + v.phase), bed(x, y));
  },
  /** A wheel with few or many spokes, some of them too fast for its frames. */
  spokes: (w, h, seed) => {
    const random = seeded(seed);
    const spokes = 6 + Math.floor(random() * 14);
    const turn = (TAU / spokes) * between(random, 0.06, 0.32);
    const [ground, thick] = [texture(seed, { contrast: 0.5 }), between(random, 1.5, 7)];
    const pace = between(random, 0, 3);
    return (t) => (x, y) => {
      const [dx, dy] = [x - w / 2 - pace * (t - 8), y - h / 2];
      const r = Math.hypot(dx, dy);
      const value = ground(x, y);
      if (r > h * 0.44) return value;
      const part = TAU / spokes;
      const angle = Math.atan2(dy, dx) - turn * t;
      const off = Math.abs(angle - part * Math.round(angle / part)) * r;
      return value + Math.max(edge(thick - off), edge(3 - Math.abs(r - h * 0.43))) * (215 - value);
    };
  },
  /** Tiles of one pattern pan by, with a few things on them. */
  tiles: (w, h, seed) => {
    const random = seeded(seed);
    const side = w * between(random, 0.02, 0.07);
    const [paint, grain] = [texture(seed), texture(seed + 1, { contrast: between(random, 0.02, 0.2) })];
    const [vx, vy] = [between(random, -0.35, 0.35) * side, between(random, -0.25, 0.25) * side];
    const things = Array.from({ length: 3 }, () => ({
      x: random() * w,
      y: random() * h,
      size: h * between(random, 0.03, 0.1),
    }));
    return (t) => {
      const floor = (x, y) =>
        paint(wrap(x + vx * t, side), wrap(y + vy * t, side)) + grain(x + vx * t, y + vy * t) - 120;
      return things.reduce(
        (base, { x, y, size }, i) => disc(base, paint, { cx: x - vx * t, cy: y - vy * t, size, tone: 20 * i - 20 }),
        floor,
      );
    };
  },
  /** A ball bounces off the floor, or back and forth between walls. */
  bounce: (w, h, seed) => {
    const random = seeded(seed);
    const [ground, paint] = [texture(seed, { contrast: between(random, 0.1, 0.7) }), texture(seed + 1)];
    const [floor, size] = [h * between(random, 0.75, 0.9), h * between(random, 0.05, 0.14)];
    const [period, phase, high] = [between(random, 5, 11), random() * 10, h * between(random, 0.25, 0.6)];
    const [vx, spin] = [between(random, -4, 4) * (w / 640), between(random, -0.1, 0.1)];
    return (t) => {
      const u = (wrap(t + phase, period) / period) * 2 - 1;
      return disc(ground, paint, {
        ...{ cx: w / 2 + vx * (t - 8), cy: floor - size - high * (1 - u * u) },
        ...{ size, tone: 40, turn: spin * t },
      });
    };
  },
  /** A rope swings and waves. */
  rope: (w, h, seed) => {
    const random = seeded(seed);
    const ground = texture(seed, { contrast: between(random, 0.2, 0.8) });
    const [swing, rate, phase, thick] = [
      between(random, 0.1, 0.5),
      between(random, 0.2, 0.8),
      random() * TAU,
      between(random, 1.5, 5),
    ];
    const [wave, many, tone] = [between(random, 2, 14), between(random, 1, 3), random() < 0.5 ? 40 : 220];
    return (t) => (x, y) => {
      const along = y / h;
      const place =
        w / 2 + swing * y * Math.sin(rate * t + phase) + wave * along * Math.sin(many * TAU * along - 1.3 * rate * t);
      const value = ground(x, y);
      return value + edge(thick - Math.abs(x - place)) * edge(h * 0.8 - y) * (tone - value);
    };
  },
  /** Many small figures walk, bob and hide each other, sampled seldom. */
  crowd: (w, h, seed) => {
    const random = seeded(seed);
    const [ground, cloth] = [texture(seed, { contrast: 0.4 }), texture(seed + 1, { contrast: 0.8 })];
    const people = Array.from({ length: 34 }, () => ({
      x: random() * w,
      y: h * between(random, 0.35, 1),
      tall: h * between(random, 0.09, 0.2),
      pace: between(random, -7, 7) * (w / 640),
      step: between(random, 0.5, 1.3),
      phase: random() * TAU,
      tone: between(random, -70, 70),
    })).sort((a, b) => a.y - b.y);
    return (t) => {
      const now = people.map((p) => ({
        ...p,
        cx: wrap(p.x + p.pace * t, w * 1.2) - w * 0.1,
        swing: Math.sin(p.step * t + p.phase),
      }));
      return (x, y) => {
        let value = ground(x, y);
        for (const { cx, y: foot, tall, swing, tone } of now) {
          const up = (foot - y + 2 * Math.abs(swing)) / tall;
          if (up < 0 || up > 1 || Math.abs(x - cx) > tall * 0.4) continue;
          const legs =
            up < 0.45
              ? Math.min(...[1, -1].map((s) => Math.abs(x - cx - s * swing * tall * 0.22 * (0.45 - up) * 2))) -
                tall * 0.07
              : Infinity;
          const body = up >= 0.4 && up < 0.82 ? Math.abs(x - cx) - tall * 0.13 : Infinity;
          const head = Math.hypot(x - cx, (up - 0.9) * tall) - tall * 0.1;
          const cover = edge(-Math.min(legs, body, head));
          value += cover * (cloth(x - cx + tone * 11, up * tall) + tone - value);
        }
        return value;
      };
    };
  },
  /** A pane that reflects one scene before another: both move. */
  layers: (w, h, seed) => {
    const random = seeded(seed);
    const [one, other] = [texture(seed), texture(seed + 1, { finest: 4 })];
    const share = between(random, 0.25, 0.5);
    const [ax, ay, bx, by] = Array.from({ length: 4 }, () => between(random, -6, 6) * (w / 640));
    return (t) => (x, y) => one(x + ax * t, y + ay * t) * (1 - share) + share * other(x + bx * t, y + by * t);
  },
  /** Light that goes on and off with every frame or two while the camera moves. */
  strobe: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed);
    const [dark, every, speed] = [between(random, 0.3, 0.8), 2 + Math.floor(random() * 3), between(random, 0, 7)];
    return (t) => {
      const gain = Math.floor(t) % every === 0 ? 1 : dark;
      return (x, y) => gain * paint(x + speed * t * (w / 640), y);
    };
  },
  /** Lamps in a dark street blink, each by itself. */
  lamps: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed, { contrast: 0.6 });
    const pan = between(random, -3, 3) * (w / 640);
    const lamps = Array.from({ length: 14 }, () => ({
      ...{ x: random() * w, y: random() * h, size: h * between(random, 0.015, 0.09), power: between(random, 60, 150) },
      lit: Array.from({ length: 20 }, () => random() < 0.5),
    }));
    return (t) => {
      const lit = lamps.filter((lamp) => lamp.lit[Math.round(t)]);
      return (x, y) =>
        lit.reduce(
          (sum, lamp) => sum + lamp.power * edge(lamp.size - Math.hypot(x + pan * t - lamp.x, y - lamp.y)),
          0.6 * paint(x + pan * t, y),
        );
    };
  },
  /** A camera that shakes faster than its frames are taken. */
  shake: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed);
    const reach = between(random, 2, 16) * (w / 640);
    const jolts = Array.from({ length: 40 }, () => random() * 2 - 1);
    const pan = between(random, -3, 3);
    return (t) => {
      const [px, py] = [pan * t + reach * jolts[Math.round(t)], reach * jolts[20 + Math.round(t)]];
      return (x, y) => paint(x + px, y + py);
    };
  },
  /** Rows read out one after another while the camera shakes: the picture leans and stretches. */
  jelly: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed);
    const [reach, rate, phase] = [between(random, 2, 12) * (w / 640), between(random, 1, 5), random() * TAU];
    const pan = between(random, -4, 4);
    return (t) => (x, y) => {
      const now = t + (0.8 * y) / h;
      return paint(x + pan * now + reach * Math.sin(rate * now + phase), y + 0.5 * reach * Math.cos(1.3 * rate * now));
    };
  },
  /** A bright window with hard edges slides over a dark wall, or the wall is seen through it. */
  window: (w, h, seed) => {
    const random = seeded(seed);
    const [inside, wall] = [
      texture(seed, { contrast: between(random, 0.1, 0.9) }),
      texture(seed + 1, { contrast: between(random, 0.05, 0.5) }),
    ];
    const [wide, tall] = [w * between(random, 0.15, 0.4), h * between(random, 0.25, 0.6)];
    const [vx, vy, still] = [
      between(random, -12, 12) * (w / 640),
      between(random, -5, 5) * (w / 640),
      random() < 0.5 ? 1 : 0,
    ];
    return (t) => (x, y) => {
      const [dx, dy] = [x - w / 2 - vx * (t - 8), y - h / 2 - vy * (t - 8)];
      const cover = edge(wide / 2 - Math.abs(dx)) * edge(tall / 2 - Math.abs(dy));
      const value = wall(x, y) - 50;
      return value + cover * ((still ? inside(x, y) : inside(dx, dy)) + 50 - value);
    };
  },
  /** Light that plays on the ground: no pattern of it goes anywhere, it becomes another. */
  caustics: (w, h, seed) => {
    const random = seeded(seed);
    const bed = texture(seed, { contrast: between(random, 0.1, 0.5) });
    const plays = Array.from({ length: 5 }, (_, i) => ({
      paint: texture(seed + 1 + i, {
        finest: 4 + 4 * Math.floor(random() * 3),
        contrast: between(random, 0.3, 0.7),
        pieces: 0,
      }),
      ...{ vx: between(random, -1.5, 1.5), vy: between(random, -1.5, 1.5) },
      ...{ rate: between(random, 0.1, 0.9), phase: random() * TAU },
    }));
    return (t) => (x, y) =>
      plays.reduce(
        (sum, { paint, vx, vy, rate, phase }) =>
          sum + Math.cos(rate * t + phase) * (paint(x + vx * t, y + vy * t) - 120),
        bed(x, y),
      );
  },
  /** Glitter: points that come and go where they are, while the ground moves a little. */
  sparkle: (w, h, seed) => {
    const random = seeded(seed);
    const paint = texture(seed, { contrast: between(random, 0.2, 0.7) });
    const pan = between(random, -3, 3) * (w / 640);
    const points = Array.from({ length: 160 }, () => ({
      ...{
        x: random() * w * 1.2 - w * 0.1,
        y: random() * h,
        size: between(random, 0.8, 4),
        power: between(random, 40, 140),
      },
      ...{ rate: between(random, 0.3, 2.5), phase: random() * TAU },
    }));
    return (t) => {
      const rows = Array.from({ length: h + 1 }, (_, row) =>
        points.filter(({ y, size }) => Math.abs(y - row) < size + 2),
      );
      return (x, y) =>
        rows[Math.max(0, Math.min(h, Math.round(y)))].reduce(
          (sum, p) => {
            const light = Math.max(0, Math.sin(p.rate * t + p.phase));
            return sum + light * p.power * edge(p.size - Math.hypot(x + pan * t - p.x, y - p.y));
          },
          paint(x + pan * t, y),
        );
    };
  },
  /** Smoke drifts, turns and thins before a ground that shows through. */
  smoke: (w, h, seed) => {
    const random = seeded(seed);
    const ground = texture(seed);
    const puffs = Array.from({ length: 3 }, (_, i) => ({
      paint: texture(seed + 1 + i, { finest: 16, pieces: 0 }),
      ...{
        vx: between(random, -4, 4),
        vy: between(random, 0, 5),
        bend: between(random, 2, 14),
        rate: between(random, 0.1, 0.5),
      },
    }));
    const pan = between(random, -2, 2);
    return (t) => (x, y) => {
      const thick = puffs.reduce(
        (sum, { paint, vx, vy, bend, rate }) =>
          sum +
          (paint(x + vx * t + bend * Math.sin(y / 40 + rate * t), y + vy * t + bend * Math.cos(x / 50 - rate * t)) -
            105) /
            150,
        0,
      );
      const cover = Math.max(0, Math.min(0.9, thick));
      return ground(x + pan * t, y) * (1 - cover) + cover * 190;
    };
  },
  /** Swell: waves of one direction, each as fast as its length lets it, with light on their crests. */
  swell: (w, h, seed) => {
    const random = seeded(seed);
    const [foam, angle] = [texture(seed, { contrast: between(random, 0.05, 0.3) }), random() * TAU];
    const waves = Array.from({ length: 5 }, () => {
      const [length, turn] = [w * between(random, 0.02, 0.15), angle + between(random, -0.25, 0.25)];
      const k = TAU / length;
      return {
        kx: k * Math.cos(turn),
        ky: k * Math.sin(turn),
        speed: 1.6 * Math.sqrt((k * w) / 90) * between(random, 0.2, 0.5),
        phase: random() * TAU,
      };
    });
    const [deep, pace] = [between(random, 8, 22), between(random, 0, 2)];
    return (t) => (x, y) => {
      const rise = waves.reduce((sum, v) => sum + Math.sin(v.kx * x + v.ky * y - v.speed * t + v.phase), 0);
      return foam(x + pace * t, y) + deep * (rise + 0.4 * Math.max(0, rise) ** 2 - 1);
    };
  },
  /** Two gratings over each other, of which one moves: what seems to move is neither. */
  moire: (w, h, seed) => {
    const random = seeded(seed);
    const ground = texture(seed, { contrast: between(random, 0.05, 0.4) });
    const grating = () => {
      const [angle, length] = [random() * TAU, w * between(random, 0.008, 0.03)];
      return { kx: (Math.cos(angle) * TAU) / length, ky: (Math.sin(angle) * TAU) / length };
    };
    const [still, slides, speed, light] = [grating(), grating(), between(random, 0.1, 1), between(random, 15, 45)];
    return (t) => (x, y) =>
      ground(x, y) +
      light *
        Math.tanh(2 * Math.sin(still.kx * x + still.ky * y)) *
        Math.tanh(2 * Math.sin(slides.kx * x + slides.ky * y + speed * t));
  },
};
