// Sequences with exact truth: each scene says the luma at any point of any frame. They are drawn with 3 × 3 samples a pixel,
// without motion blur. Frame times run from 0 to 16; speeds are in pixels of a 640-wide picture per frame.
import { edge, seeded, texture } from './paint.mjs';

const TAU = 2 * Math.PI;

/** Each: (width, height, seed) → (t) → (x, y) → luma; `noise` is added afterwards, standard deviation in grey levels. */
export const SCENES = {
  'whip-pan': (w, h, seed) => {
    const paint = texture(seed);
    return (t) => {
      const u = t / 16;
      const along = 0.62 * w * (u * u * (3 - 2 * u));
      return (x, y) => paint(x + along, y + 0.12 * along);
    };
  },
  zoom: (w, h, seed) => {
    const paint = texture(seed);
    return (t) => {
      const scale = 1.5 ** (-t / 16);
      return (x, y) => paint(w * 0.45 + (x - w * 0.45) * scale, h * 0.55 + (y - h * 0.55) * scale);
    };
  },
  'rotating-texture': (w, h, seed) => {
    const [disc, ground] = [texture(seed), texture(seed + 1, { contrast: 0.7 })];
    return (t) => {
      const turn = (t * 2.1 * TAU) / 360;
      const [c, s] = [Math.cos(turn), Math.sin(turn)];
      return (x, y) => {
        const [dx, dy] = [x - w * 0.5, y - h * 0.5];
        const cover = edge(h * 0.42 - Math.hypot(dx, dy));
        return cover === 0
          ? ground(x, y)
          : ground(x, y) * (1 - cover) + cover * disc(200 + dx * c - dy * s, 200 + dx * s + dy * c);
      };
    };
  },
  'ball-behind-post': (w, h, seed) => {
    const [ball, ground, post] = [
      texture(seed),
      texture(seed + 1, { contrast: 0.8 }),
      texture(seed + 2, { contrast: 0.5 }),
    ];
    return (t) => {
      const [bx, by] = [w * 0.15 + t * w * 0.019, h * 0.55 - 60 * Math.sin((t / 16) * Math.PI)];
      return (x, y) => {
        const a = edge(h * 0.12 - Math.hypot(x - bx, y - by));
        const b = edge(w * 0.03 - Math.abs(x - w * 0.36));
        let value = ground(x + t * 0.4, y);
        value += a * (ball(x - bx + 300, y - by + 300) + 25 - value);
        return value + b * (post(x, y) - 35 - value);
      };
    };
  },
  'falling-leaves': (w, h, seed) => {
    const random = seeded(seed + 7);
    const ground = texture(seed, { contrast: 0.45, pieces: 20 });
    const leaf = texture(seed + 3, { contrast: 0.8 });
    const leaves = Array.from({ length: 26 }, () => ({
      x: random() * w,
      y: random() * h * 1.3 - h * 0.3,
      size: 8 + random() * 18,
      fall: 3 + random() * 5,
      sway: 6 + random() * 16,
      phase: random() * TAU,
      spin: (random() - 0.5) * 0.22,
      tone: (random() - 0.5) * 120,
    }));
    return (t) => {
      const now = leaves.map((l) => ({
        ...l,
        cx: l.x + l.sway * Math.sin(l.phase + t * 0.3),
        cy: l.y + l.fall * t,
        turn: l.phase + l.spin * t,
      }));
      const bands = Array.from({ length: h + 2 }, (_, row) =>
        now.filter(({ cy, size }) => Math.abs(row - cy) < size * 1.3 + 2),
      );
      return (x, y) => {
        let value = ground(x, y);
        for (const { cx, cy, turn, size, tone } of bands[Math.max(0, Math.floor(y))]) {
          const [dx, dy] = [x - cx, y - cy];
          if (dx * dx + dy * dy > size * size * 1.5) continue;
          const [c, s] = [Math.cos(turn), Math.sin(turn)];
          const [a, b] = [(dx * c + dy * s) / size, ((dy * c - dx * s) / size) * 2];
          const cover = edge((1 - Math.hypot(a, b)) * size * 0.5);
          value += cover * (leaf(a * 20 + tone * 9, b * 20) + tone * 0.6 - value);
        }
        return value;
      };
    };
  },
  'thin-spokes': (w, h, seed) => {
    const ground = texture(seed, { contrast: 0.55 });
    return (t) => {
      const turn = t * 0.045;
      const [cx, cy, reach] = [w * 0.5, h * 0.5, h * 0.44];
      return (x, y) => {
        const [dx, dy] = [x - cx, y - cy];
        const r = Math.hypot(dx, dy);
        const value = ground(x, y);
        if (r > reach + 4) return value;
        const part = TAU / 10;
        const angle = Math.atan2(dy, dx) - turn;
        const off = Math.abs(angle - part * Math.round(angle / part)) * r;
        const cover = Math.max(edge(1.4 - off) * edge(reach - r), edge(2 - Math.abs(r - reach)), edge(9 - r));
        return value + cover * (222 - value);
      };
    };
  },
  parallax: (w, h, seed) => {
    const random = seeded(seed);
    const layers = Array.from({ length: 4 }, (_, i) => ({
      paint: texture(seed + i, { contrast: 0.7 }),
      speed: 0.8 + i * i * 1.1,
      tone: (i - 1.5) * 22,
      posts:
        i === 0
          ? undefined
          : Array.from({ length: 9 }, () => ({
              at: random() * w * 2 - w * 0.3,
              wide: 10 + random() * 26 * i,
              top: h * (0.15 + 0.17 * i + 0.2 * random()),
            })),
    }));
    return (t) => (x, y) => {
      let value = 0;
      for (const { paint, speed, tone, posts } of layers) {
        const sx = x + speed * t;
        let cover = posts ? 0 : 1;
        if (posts)
          for (const p of posts) cover = Math.max(cover, edge(p.wide / 2 - Math.abs(sx - p.at)) * edge(y - p.top));
        if (cover > 0) value += cover * (paint(sx, y) + tone - value);
      }
      return value;
    };
  },
  'pendulum-and-shadow': (w, h, seed) => {
    const [wall, bob] = [texture(seed, { contrast: 0.6 }), texture(seed + 1)];
    return (t) => {
      const angle = 0.75 * Math.sin(0.12 * t - 0.9);
      const [px, py, length] = [w * 0.48, -h * 0.1, h * 0.78];
      const [bx, by] = [px + length * Math.sin(angle), py + length * Math.cos(angle)];
      return (x, y) => {
        const shade = 1 - 0.4 * Math.max(0, Math.min(1, (h * 0.1 + 14 - Math.hypot(x - bx - 40, y - by - 26)) / 28));
        let value = wall(x, y) * shade;
        const along = ((x - px) * (bx - px) + (y - py) * (by - py)) / (length * length);
        const rod =
          edge(2.2 - Math.hypot(x - px - along * (bx - px), y - py - along * (by - py))) * (along < 1 ? 1 : 0);
        value += rod * (45 - value);
        const [c, s] = [Math.cos(angle), Math.sin(angle)];
        const [dx, dy] = [x - bx, y - by];
        const cover = edge(h * 0.09 - Math.hypot(dx, dy));
        return value + cover * (bob(dx * c - dy * s + 100, dx * s + dy * c + 100) + 15 - value);
      };
    };
  },
  'exposure-change': (w, h, seed) => {
    const paint = texture(seed);
    return (t) => {
      const gain = 0.65 + 0.5 * (t / 16);
      return (x, y) => gain * paint(x + 4.3 * t, y - 1.7 * t);
    };
  },
  'small-fast-object': (w, h, seed) => {
    const ground = texture(seed, { contrast: 0.7 });
    return (t) => {
      const [bx, by] = [w * 0.06 + 17 * t, h * 0.75 - 23 * t + 0.9 * t * t];
      return (x, y) => {
        const value = ground(x - 0.3 * t, y);
        return value + edge(7 - Math.hypot(x - bx, y - by)) * (226 - value);
      };
    };
  },
  noise: (w, h, seed) => {
    const paint = texture(seed);
    const scene = (t) => (x, y) => paint(x + 2.6 * t, y + 1.1 * t);
    scene.noise = 5;
    return scene;
  },
  cut: (w, h, seed) => {
    const [one, other] = [texture(seed), texture(seed + 5, { contrast: 0.8 })];
    return (t) => (t < 8.5 ? (x, y) => one(x + 3.1 * t, y) : (x, y) => other(x - 2.2 * t, y + 1.5 * t) + 12);
  },
  'caption-over-pan': (w, h, seed) => {
    const paint = texture(seed);
    const sign = texture(seed + 9, { finest: 16, contrast: 2.5, pieces: 0 });
    return (t) => (x, y) => {
      const value = paint(x + 6.5 * t, y);
      const inBox = x > w * 0.3 && x < w * 0.7 && y > h * 0.76 && y < h * 0.88;
      return inBox && sign(x * 1.7, y * 1.7) > 128 ? 236 : value;
    };
  },
};
