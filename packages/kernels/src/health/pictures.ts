import type { Arena } from '../flow/arena.js';
import type { KernelCalls } from '../kernel-calls.js';

/** A picture as means of cells, in the kernels' memory. */
export interface Cells {
  readonly columns: number;
  readonly rows: number;
  /** Where they are, f32. */
  readonly cells: number;
  /** Room for what its blocks are compared by, which is found out when it is first asked for. */
  readonly quarters: number;
  readonly contrasts: number;
  contrast: number | undefined;
}

/** How far motion is followed in each picture, in its cells. */
const REACH = { fine: 3, coarse: 5, rough: 8 };

const SCALES = ['fine', 'coarse', 'rough'] as const;

/** A picture at three scales: cells of 4 × 4, 8 × 8 and 16 × 16 samples. */
export type Picture = Record<(typeof SCALES)[number], Cells> & {
  /** Shares of 32 luma ranges, each 8 levels wide. */
  histogram: readonly number[];
};

/** Side of a block of structure, cells. */
const PART = 6;

/** A cell's structure may be noise by so many levels. */
const GRAIN = 0.8;

/** Less than this is left by motion alone. */
const WELL_EXPLAINED = 0.08;

/** Bytes of cells, with what may be written past their end. */
const bytesOf = (columns: number, rows: number) => 4 * (columns * rows + 4);

/** Compares pictures of one size, of which a few are kept at a time. */
export class Pictures {
  private readonly across: number;
  private readonly counts: number;
  private readonly offsets: Record<(typeof SCALES)[number], { readonly at: number; readonly count: number }>;

  constructor(
    private readonly arena: Arena,
    private readonly run: KernelCalls,
    private readonly columns: number,
    private readonly rows: number,
  ) {
    this.across = arena.take(bytesOf(columns, rows));
    this.counts = arena.take(32 * 4);
    this.offsets = { fine: this.places('fine'), coarse: this.places('coarse'), rough: this.places('rough') };
  }

  /** Room for one. */
  room(): Picture {
    let [columns, rows] = [this.columns, this.rows];
    const cells = () => {
      const room = bytesOf(columns, rows);
      const [cells, quarters, contrasts] = [this.arena.take(room), this.arena.take(room), this.arena.take(room)];
      const made: Cells = { columns, rows, cells, quarters, contrasts, contrast: undefined };
      if (columns >= 2 && rows >= 2) [columns, rows] = [columns >> 1, rows >> 1];
      return made;
    };
    return { fine: cells(), coarse: cells(), rough: cells(), histogram: [] };
  }

  /** Makes the rest of a picture of its fine cells. */
  reduce(picture: Picture): void {
    for (const scale of SCALES) picture[scale].contrast = undefined;
    this.halve(picture.fine, picture.coarse);
    this.halve(picture.coarse, picture.rough);
    const { columns, rows, cells } = picture.fine;
    this.run.countLevels(cells, columns * rows, this.counts);
    const counts = new Int32Array(this.arena.memory.buffer, this.counts, 32);
    picture.histogram = Array.from(counts, (count) => count / (columns * rows));
  }

  private halve(from: Cells, to: Cells): void {
    if (to.columns < from.columns) this.run.halveCells(from.cells, from.columns, from.rows, to.cells);
    // Too small to be halved.
    else this.values(to).set(this.values(from));
  }

  /**
   * How much of b's structure is not found in a: every block, less its mean (light may change), is looked for around where it was; what is left
   * of its contrast where it fits best. At three scales, and what is explained best counts: near and fine, far and rough. Where it is
   * `enough` or more, how much more is not found out.
   */
  unlike(a: Picture, b: Picture, enough = 1): number {
    let least = 1;
    // What one scale explains well needs no other; the rough one is a sixteenth of the fine one's work.
    for (const scale of ['rough', 'coarse', 'fine'] as const) {
      least = Math.min(least, this.unmatched(a[scale], b[scale], this.offsets[scale], Math.min(least, enough)));
      if (least < WELL_EXPLAINED) break;
    }
    return least;
  }

  private unmatched(a: Cells, b: Cells, offsets: { at: number; count: number }, enough: number): number {
    if (b.columns < PART || b.rows < PART) return standingApart(this.values(a), this.values(b));
    for (const each of [a, b]) {
      const { cells, columns, rows, quarters, contrasts } = each;
      each.contrast ??= this.run.structureOf(cells, columns, rows, this.across, quarters, contrasts);
    }
    return this.run.unmatched({
      ...{ a: a.cells, quartersA: a.quarters },
      ...{ b: b.cells, quartersB: b.quarters, contrastsB: b.contrasts, contrast: b.contrast! },
      ...{ columns: b.columns, rows: b.rows, offsets: offsets.at, places: offsets.count, enough },
    });
  }

  private values({ cells, columns, rows }: Cells): Float32Array {
    return new Float32Array(this.arena.memory.buffer, cells, columns * rows);
  }

  /** Places a block is looked for at, nearest first. */
  private places(scale: (typeof SCALES)[number]) {
    const reach = REACH[scale];
    const side = Array.from({ length: 2 * reach + 1 }, (_, i) => i - reach);
    const all = side.flatMap((y) => side.map((x) => [x, y] as const));
    all.sort(([ax, ay], [bx, by]) => ax * ax + ay * ay - bx * bx - by * by);
    const at = this.arena.take(8 * all.length);
    new Int32Array(this.arena.memory.buffer, at, 2 * all.length).set(all.flat());
    return { at, count: all.length };
  }
}

/** The share of a small picture's structure that is not where it was. */
function standingApart(a: Float32Array, b: Float32Array): number {
  const mean = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let [apart, own] = [0, 0];
  for (let i = 0; i < b.length; i++) {
    apart += Math.abs(a[i]! - meanA - b[i]! + meanB);
    own += Math.abs(b[i]! - meanB);
  }
  return Math.max(0, Math.min(apart, own) - GRAIN * b.length) / (own + GRAIN * 2 * b.length);
}
