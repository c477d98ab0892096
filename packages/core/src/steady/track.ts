/** One luma picture, 0 … 255. */
export interface Luma {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

/** How far a patch is looked for from where it is expected, in shares of the width. */
const AROUND = 0.025;

/** Less alike than this it is something else: lost. */
const ALIKE = 0.5;

/** More alike than this, the patch is looked for as it is now from then on: it may turn and grow. */
const SURE = 0.85;

/**
 * Follows a square patch from picture to picture: by normalised cross-correlation about where its motion would bring it (J. P. Lewis,
 * "Fast normalized cross-correlation", Vision Interface 1995), between samples by a parabola.
 */
export class PatchTracker {
  private template: Float64Array;
  private readonly side: number;
  private speed: readonly [number, number] = [0, 0];

  /** @param x,y the patch's middle in `first`, in samples; `side` its side */
  constructor(
    first: Luma,
    private x: number,
    private y: number,
    side: number,
  ) {
    this.side = Math.max(8, Math.round(side));
    this.template = this.patchAt(first, x, y);
  }

  /** Where the patch's middle is in the next picture; `undefined` when it is lost. */
  next(picture: Luma): readonly [x: number, y: number] | undefined {
    const [px, py] = [Math.round(this.x + this.speed[0]), Math.round(this.y + this.speed[1])];
    const around = Math.max(4, Math.round(AROUND * picture.width));
    const score = (dx: number, dy: number) => likeness(this.template, this.patchAt(picture, px + dx, py + dy));
    let best = { score: -2, dx: 0, dy: 0 };
    const look = (fromX: number, toX: number, fromY: number, toY: number, step: number) => {
      for (let dy = fromY; dy <= toY; dy += step)
        for (let dx = fromX; dx <= toX; dx += step) {
          const found = score(dx, dy);
          if (found > best.score) best = { score: found, dx, dy };
        }
    };
    // Every second place first, then the places beside the best.
    look(-around, around, -around, around, 2);
    look(best.dx - 1, best.dx + 1, best.dy - 1, best.dy + 1, 1);
    if (best.score < ALIKE) return undefined;
    const between = (low: number, high: number) => {
      const curve = low - 2 * best.score + high;
      return curve < -1e-12 ? Math.max(-0.5, Math.min(0.5, (low - high) / (2 * curve))) : 0;
    };
    const x = px + best.dx + between(score(best.dx - 1, best.dy), score(best.dx + 1, best.dy));
    const y = py + best.dy + between(score(best.dx, best.dy - 1), score(best.dx, best.dy + 1));
    this.speed = [x - this.x, y - this.y];
    [this.x, this.y] = [x, y];
    if (best.score > SURE && best.score < 0.97) this.template = this.patchAt(picture, x, y);
    return [x, y];
  }

  /** The samples of a patch about a place, edges held, bilinear. */
  private patchAt({ width, height, data }: Luma, x: number, y: number): Float64Array {
    const { side } = this;
    const out = new Float64Array(side * side);
    const [left, top] = [x - (side - 1) / 2, y - (side - 1) / 2];
    const [fx, fy] = [left - Math.floor(left), top - Math.floor(top)];
    const hold = (n: number, most: number) => (n < 0 ? 0 : n > most ? most : n);
    for (let j = 0; j < side; j++) {
      const row = hold(Math.floor(top) + j, height - 1) * width;
      const below = hold(Math.floor(top) + j + 1, height - 1) * width;
      for (let i = 0; i < side; i++) {
        const a = hold(Math.floor(left) + i, width - 1);
        const b = hold(a + 1, width - 1);
        const upper = data[row + a]! + fx * (data[row + b]! - data[row + a]!);
        const lower = data[below + a]! + fx * (data[below + b]! - data[below + a]!);
        out[j * side + i] = upper + fy * (lower - upper);
      }
    }
    return out;
  }
}

/** −1 … 1: how alike two patches are, brightness and contrast apart. */
function likeness(a: Float64Array, b: Float64Array): number {
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    const [p, q] = [a[i]!, b[i]!];
    sa += p;
    sb += q;
    saa += p * p;
    sbb += q * q;
    sab += p * q;
  }
  const n = a.length;
  const spread = Math.sqrt((saa - (sa * sa) / n) * (sbb - (sb * sb) / n));
  return spread < 1e-9 ? 0 : (sab - (sa * sb) / n) / spread;
}
