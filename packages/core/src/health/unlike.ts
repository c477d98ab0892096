import type { Cells, Reduced } from './cells.js';

/** Side of a block of structure, in cells, and how far it is looked for. */
const PART = 6;

const REACH = { fine: 3, coarse: 5, rough: 8 };

/** Less than this is left by motion alone. */
const WELL_EXPLAINED = 0.08;

/** Levels a cell's structure may be noise by. */
const GRAIN = 0.8;

/**
 * How much of a picture's structure is not found in another one: every block, less its mean (light may change), is looked for around where it
 * was; what is left of its contrast where it fits best. At three scales, and what is explained best counts: near and fine, far and rough.
 * Where it is `enough` or more, how much more is not found out.
 */
export function unlike(a: Reduced, b: Reduced, enough = 1): number {
  let least = 1;
  // What one scale explains well needs no other; the rough one is a sixteenth of the fine one's work.
  for (const scale of ['rough', 'coarse', 'fine'] as const) {
    least = Math.min(least, unmatched(a[scale], b[scale], REACH[scale], Math.min(least, enough)));
    if (least < WELL_EXPLAINED) break;
  }
  return least;
}

/** What blocks of cells are compared by. */
interface Structure {
  /** Sums of 3 × 3 cells, of which a block has four, each kept at its first cell; where none fits, 0. */
  readonly quarters: Float32Array;
  /** By block: how far its cells are from their mean, added up. */
  readonly contrasts: Float64Array;
  /** Of all blocks. */
  readonly contrast: number;
}

const QUARTER = PART / 2;

/** Cells of a block. */
const COUNT = PART * PART;

const structures = new WeakMap<Cells, Structure>();

function structureOf(cells: Cells): Structure {
  const known = structures.get(cells);
  if (known) return known;
  const { columns, rows, values } = cells;
  const across = new Float32Array(columns * rows);
  const quarters = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++)
    for (let at = row * columns; at + QUARTER <= (row + 1) * columns; at++)
      across[at] = values[at]! + values[at + 1]! + values[at + 2]!;
  for (let at = 0; at + (QUARTER - 1) * columns < across.length; at++)
    quarters[at] = across[at]! + across[at + columns]! + across[at + 2 * columns]!;
  const contrasts = new Float64Array(Math.floor(columns / PART) * Math.floor(rows / PART));
  let [block, contrast] = [0, 0];
  for (let top = 0; top + PART <= rows; top += PART)
    for (let left = 0; left + PART <= columns; left += PART) {
      const own = contrastOf(values, top * columns + left, columns, meanOf(quarters, top * columns + left, columns));
      contrasts[block++] = own;
      contrast += own;
    }
  const structure = { quarters, contrasts, contrast };
  structures.set(cells, structure);
  return structure;
}

/** Mean of the block that begins at a cell. */
function meanOf(quarters: Float32Array, at: number, columns: number): number {
  const below = at + QUARTER * columns;
  return (quarters[at]! + quarters[at + QUARTER]! + quarters[below]! + quarters[below + QUARTER]!) / COUNT;
}

function contrastOf(values: Float32Array, at: number, columns: number, mean: number): number {
  let contrast = 0;
  for (let y = 0; y < PART; y++, at += columns)
    for (let x = 0; x < PART; x++) contrast += Math.abs(values[at + x]! - mean);
  return contrast;
}

/** Places a block is looked for at, nearest first. */
const places = new Map<number, readonly (readonly [x: number, y: number])[]>();

function placesWithin(reach: number): readonly (readonly [x: number, y: number])[] {
  const known = places.get(reach);
  if (known) return known;
  const side = Array.from({ length: 2 * reach + 1 }, (_, i) => i - reach);
  const all = side.flatMap((y) => side.map((x) => [x, y] as const));
  all.sort(([ax, ay], [bx, by]) => ax * ax + ay * ay - bx * bx - by * by);
  places.set(reach, all);
  return all;
}

/**
 * The share of structure that is left where every block fits best; pictures smaller than a block are compared as they stand. Given up once it is
 * `enough`.
 *
 * A place is only looked at closely where the sums of the block's quarters, less its mean, are not further apart already than the whole of it is at
 * the best place so far (Li and Salari, "Successive elimination algorithm for motion estimation", 1995), and the place where its neighbour
 * fitted best comes first; both leave the result as it is.
 */
function unmatched(a: Cells, b: Cells, reach: number, enough: number): number {
  const { columns, rows } = b;
  if (columns < PART || rows < PART) return standingApart(a.values, b.values);
  const [{ quarters }, own] = [structureOf(a), structureOf(b)];
  const all = own.contrast + GRAIN * 2 * b.values.length;
  const noise = GRAIN * COUNT;
  const [right, below] = [QUARTER, QUARTER * columns];
  const offsets = placesWithin(reach);
  let [left, block, lastX, lastY] = [0, 0, 0, 0];
  for (let top = 0; top + PART <= rows; top += PART)
    for (let start = 0; start + PART <= columns; start += PART) {
      let best = own.contrasts[block++]!;
      // Less than noise counts as nothing, wherever it fits.
      if (best <= noise) continue;
      const here = top * columns + start;
      const q0 = own.quarters[here]!;
      const q1 = own.quarters[here + right]!;
      const q2 = own.quarters[here + below]!;
      const q3 = own.quarters[here + below + right]!;
      let [dx, dy] = [lastX, lastY];
      for (let i = -1; i < offsets.length && best > noise; i++) {
        if (i >= 0) [dx, dy] = offsets[i]!;
        if (top + dy < 0 || top + dy + PART > rows || start + dx < 0 || start + dx + PART > columns) continue;
        const at = here + dy * columns + dx;
        const p0 = quarters[at]! - q0;
        const p1 = quarters[at + right]! - q1;
        const p2 = quarters[at + below]! - q2;
        const p3 = quarters[at + below + right]! - q3;
        const shared = (p0 + p1 + p2 + p3) / 4;
        const least = Math.abs(p0 - shared) + Math.abs(p1 - shared) + Math.abs(p2 - shared) + Math.abs(p3 - shared);
        if (least >= best) continue;
        const apart = apartWithin(a.values, at, b.values, here, columns, (4 * shared) / COUNT, best);
        if (apart >= best) continue;
        best = apart;
        [lastX, lastY] = [dx, dy];
      }
      left += Math.max(0, best - noise);
      if (left >= enough * all) return left / all;
    }
  return left / all;
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

/**
 * How far apart two blocks are whose means are `shift` apart, less that; given up, and then too large, once it is `most`. Rows are written out: this is
 * where the time goes.
 */
function apartWithin(
  a: Float32Array,
  at: number,
  b: Float32Array,
  here: number,
  columns: number,
  shift: number,
  most: number,
): number {
  let apart = 0;
  for (let y = 0; y < PART && apart < most; y++, at += columns, here += columns)
    apart +=
      Math.abs(a[at]! - b[here]! - shift) +
      Math.abs(a[at + 1]! - b[here + 1]! - shift) +
      Math.abs(a[at + 2]! - b[here + 2]! - shift) +
      Math.abs(a[at + 3]! - b[here + 3]! - shift) +
      Math.abs(a[at + 4]! - b[here + 4]! - shift) +
      Math.abs(a[at + 5]! - b[here + 5]! - shift);
  return apart;
}
