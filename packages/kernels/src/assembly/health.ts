// What pictures are compared by when a file is looked through: means of square cells, sums of slopes over blocks of them, and how much of one
// picture's structure is nowhere near in another. Cells are f32, row by row without gaps; 16 bytes past their end may be read.

/** Side of a block of structure, and of its quarters, cells. */
const PART: i32 = 6;
const QUARTER: i32 = 3;
const COUNT: f32 = 36;

/** Levels a cell's structure may be noise by. */
const GRAIN: f32 = 0.8;

/** Sums of a block. */
const SUMS: i32 = 6;

// @ts-ignore: decorator
@inline
function sumOf(lanes: v128): f32 {
  return f32x4.extract_lane(lanes, 0) + f32x4.extract_lane(lanes, 1) + (f32x4.extract_lane(lanes, 2) + f32x4.extract_lane(lanes, 3));
}

/** Sums of four cells that are four samples wide, of some lines of a plane. */
// @ts-ignore: decorator
@inline
function fourCells(top: usize, width: i32, lines: i32): v128 {
  let sums = i32x4.splat(0);
  for (let y = 0; y < lines; y++) {
    const samples = v128.load(top + y * width);
    sums = i32x4.add(sums, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(samples)));
  }
  return sums;
}

/** Means of cells of an 8-bit plane. What is left at its edges does not count; of a plane smaller than a cell it is the sum of what is there. */
export function cellsOfLuma(plane: usize, width: i32, height: i32, side: i32, columns: i32, rows: i32, out: usize): void {
  const share = <f32>1 / <f32>(side * side);
  for (let row = 0; row < rows; row++) {
    const top = plane + row * side * width;
    const lines = min(side, height - row * side);
    const line = out + ((row * columns) << 2);
    let column = 0;
    if (side == 4)
      for (; column + 4 <= columns; column += 4) {
        const sums = f32x4.convert_i32x4_s(fourCells(top + (column << 2), width, lines));
        v128.store(line + (column << 2), f32x4.mul(sums, f32x4.splat(share)));
      }
    for (; column < columns; column++) {
      let sum = 0;
      for (let y = 0; y < lines; y++)
        for (let x = column * side; x < min(width, (column + 1) * side); x++) sum += <i32>load<u8>(top + y * width + x);
      store<f32>(line + (column << 2), <f32>sum * share);
    }
  }
}

/** Cells of which there are the means already, as u16 in 256ths of a level. */
export function cellsOfMeans(means: usize, count: i32, out: usize): void {
  const share = f32x4.splat(1 / <f32>256);
  for (let i = 0; i < count; i += 4) {
    const four = i32x4.extend_low_i16x8_u(v128.load64_zero(means + (i << 1)));
    v128.store(out + (i << 2), f32x4.mul(f32x4.convert_i32x4_s(four), share));
  }
}

/** Cells of twice the side: means of four; a row or column that is left over does not count. */
export function halveCells(cells: usize, columns: i32, rows: i32, out: usize): void {
  const across = columns >> 1;
  const quarter = f32x4.splat(0.25);
  for (let row = 0; row < rows >> 1; row++) {
    const upper = cells + ((2 * row * columns) << 2);
    const lower = upper + (columns << 2);
    // Row by row, so that what is written past its end is written over by the next.
    for (let column = 0; column < across; column += 4) {
      const at = column << 3;
      const near = f32x4.add(v128.load(upper + at), v128.load(lower + at));
      const far = f32x4.add(v128.load(upper + at + 16), v128.load(lower + at + 16));
      const even = v128.shuffle<f32>(near, far, 0, 2, 4, 6);
      const odd = v128.shuffle<f32>(near, far, 1, 3, 5, 7);
      v128.store(out + ((row * across + column) << 2), f32x4.mul(f32x4.add(even, odd), quarter));
    }
  }
}

/** Counts cells in 32 ranges of luma, each 8 levels wide, as i32. */
export function countLevels(cells: usize, count: i32, out: usize): void {
  memory.fill(out, 0, 32 << 2);
  for (let i = 0; i < count; i++) {
    const at = out + (min(31, <i32>load<f32>(cells + (i << 2)) >> 3) << 2);
    store<i32>(at, load<i32>(at) + 1);
  }
}

/** Sum of what cells of two pictures differ by. */
export function cellsApart(a: usize, b: usize, count: i32): f32 {
  let sums = f32x4.splat(0);
  let i = 0;
  for (; i + 4 <= count; i += 4) sums = f32x4.add(sums, f32x4.abs(f32x4.sub(v128.load(b + (i << 2)), v128.load(a + (i << 2)))));
  let sum = sumOf(sums);
  for (; i < count; i++) sum += Mathf.abs(load<f32>(b + (i << 2)) - load<f32>(a + (i << 2)));
  return sum;
}

/** Sum of cells. */
export function cellsTotal(cells: usize, count: i32): f32 {
  let sums = f32x4.splat(0);
  let i = 0;
  for (; i + 4 <= count; i += 4) sums = f32x4.add(sums, v128.load(cells + (i << 2)));
  let sum = sumOf(sums);
  for (; i < count; i++) sum += load<f32>(cells + (i << 2));
  return sum;
}

// @ts-ignore: decorator
@inline
function gather(at: usize, value: v128): void {
  v128.store(at, f32x4.add(v128.load(at), value));
}

/**
 * Sums over all whole blocks of `size × size` cells that have no cell at the edge, row by row, six f32 each: of ∇I∇Iᵀ (xx, xy, yy), of ∇I·(I₂ − I₁)
 * (xt, yt) and of (I₂ − I₁)² (tt); ∇I is the mean of both pictures' slopes. Returns how many blocks. `scratch` has room for six rows of
 * columns, each 4 f32 longer.
 */
export function blockSlopes(before: usize, now: usize, columns: i32, rows: i32, size: i32, scratch: usize, out: usize): i32 {
  const stride = (columns + 4) << 2;
  const line = columns << 2;
  const quarter = f32x4.splat(0.25);
  let blocks = 0;
  for (let top = 1; top + size < rows; top += size) {
    memory.fill(scratch, 0, SUMS * stride);
    for (let row = top; row < top + size; row++)
      for (let column = 1; column < columns - 1; column += 4) {
        const at = (row * columns + column) << 2;
        const a = before + at;
        const b = now + at;
        const right = f32x4.add(v128.load(a + 4), v128.load(b + 4));
        const left = f32x4.add(v128.load(a - 4), v128.load(b - 4));
        const below = f32x4.add(v128.load(a + line), v128.load(b + line));
        const above = f32x4.add(v128.load(a - line), v128.load(b - line));
        const gx = f32x4.mul(f32x4.sub(right, left), quarter);
        const gy = f32x4.mul(f32x4.sub(below, above), quarter);
        const by = f32x4.sub(v128.load(b), v128.load(a));
        const sums = scratch + (column << 2);
        gather(sums, f32x4.mul(gx, gx));
        gather(sums + stride, f32x4.mul(gx, gy));
        gather(sums + 2 * stride, f32x4.mul(gy, gy));
        gather(sums + 3 * stride, f32x4.mul(gx, by));
        gather(sums + 4 * stride, f32x4.mul(gy, by));
        gather(sums + 5 * stride, f32x4.mul(by, by));
      }
    for (let left = 1; left + size < columns; left += size) {
      for (let which = 0; which < SUMS; which++) {
        let sum: f32 = 0;
        for (let column = left; column < left + size; column++) sum += load<f32>(scratch + which * stride + (column << 2));
        store<f32>(out, sum);
        out += 4;
      }
      blocks++;
    }
  }
  return blocks;
}

// @ts-ignore: decorator
@inline
function cell(cells: usize, at: i32): f32 {
  return load<f32>(cells + (at << 2));
}

/**
 * What blocks are compared by: `quarters` become sums of 3 × 3 cells, each kept at its first cell, `contrasts` of every block how far its cells are
 * from their mean, added up. `across` is room for as many cells. Returns the contrasts' sum.
 */
export function structureOf(cells: usize, columns: i32, rows: i32, across: usize, quarters: usize, contrasts: usize): f32 {
  const count = columns * rows;
  // Beyond a row's or the picture's end sums mean nothing, and are not read.
  for (let i = 0; i < count; i += 4) {
    const at = i << 2;
    v128.store(across + at, f32x4.add(f32x4.add(v128.load(cells + at), v128.load(cells + at + 4)), v128.load(cells + at + 8)));
  }
  const line = columns << 2;
  for (let i = 0; i < count - (QUARTER - 1) * columns; i += 4) {
    const at = across + (i << 2);
    v128.store(quarters + (i << 2), f32x4.add(f32x4.add(v128.load(at), v128.load(at + line)), v128.load(at + 2 * line)));
  }
  let total: f32 = 0;
  for (let top = 0; top + PART <= rows; top += PART)
    for (let left = 0; left + PART <= columns; left += PART) {
      const here = top * columns + left;
      const below = here + QUARTER * columns;
      const mean = (cell(quarters, here) + cell(quarters, here + QUARTER) + cell(quarters, below) + cell(quarters, below + QUARTER)) / COUNT;
      let contrast: f32 = 0;
      for (let y = 0; y < PART; y++)
        for (let x = 0; x < PART; x++) contrast += Mathf.abs(cell(cells, here + y * columns + x) - mean);
      store<f32>(contrasts, contrast);
      contrasts += 4;
      total += contrast;
    }
  return total;
}

/** How far apart two blocks are whose means are `shift` apart, less that; given up, and then too large, once it is `most`. */
// @ts-ignore: decorator
@inline
function apartWithin(a: usize, b: usize, line: i32, shift: v128, most: f32): f32 {
  let apart: f32 = 0;
  for (let y = 0; y < PART && apart < most; y += 2) {
    const next = a + line;
    const other = b + line;
    const first = f32x4.abs(f32x4.sub(f32x4.sub(v128.load(a), v128.load(b)), shift));
    const second = f32x4.abs(f32x4.sub(f32x4.sub(v128.load(next), v128.load(other)), shift));
    // The last two cells of both rows together.
    const ends = v128.shuffle<f32>(v128.load64_zero(a + 16), v128.load64_zero(next + 16), 0, 1, 4, 5);
    const others = v128.shuffle<f32>(v128.load64_zero(b + 16), v128.load64_zero(other + 16), 0, 1, 4, 5);
    apart += sumOf(f32x4.add(f32x4.add(first, second), f32x4.abs(f32x4.sub(f32x4.sub(ends, others), shift))));
    a = next + line;
    b = other + line;
  }
  return apart;
}

/**
 * The share of picture b's structure that is left where every block of it, less its mean (light may change), fits picture a best; given up once it
 * is `enough`. `offsets` are the `places` a block is looked for at, (x, y) as i32; `contrast` is the sum of b's contrasts.
 *
 * A place is only looked at closely where the sums of the block's quarters, less its mean, are not further apart already than the whole of it is at
 * the best place so far (Li and Salari, "Successive elimination algorithm for motion estimation", 1995), and the place where its neighbour
 * fitted best comes first; both leave the result as it is.
 */
export function unmatched(
  a: usize,
  quartersA: usize,
  b: usize,
  quartersB: usize,
  contrastsB: usize,
  contrast: f32,
  columns: i32,
  rows: i32,
  offsets: usize,
  places: i32,
  enough: f32,
): f32 {
  const line = columns << 2;
  const all = contrast + GRAIN * 2 * <f32>(columns * rows);
  const noise = GRAIN * COUNT;
  const below = QUARTER * columns;
  let left: f32 = 0;
  let lastX = 0;
  let lastY = 0;
  for (let top = 0; top + PART <= rows; top += PART)
    for (let start = 0; start + PART <= columns; start += PART) {
      let best = load<f32>(contrastsB);
      contrastsB += 4;
      // Less than noise counts as nothing, wherever it fits.
      if (best <= noise) continue;
      const here = top * columns + start;
      const own = f32x4(cell(quartersB, here), cell(quartersB, here + QUARTER), cell(quartersB, here + below), cell(quartersB, here + below + QUARTER));
      let dx = lastX;
      let dy = lastY;
      for (let i = -1; i < places && best > noise; i++) {
        if (i >= 0) {
          dx = load<i32>(offsets + (i << 3));
          dy = load<i32>(offsets + (i << 3), 4);
        }
        if (top + dy < 0 || top + dy + PART > rows || start + dx < 0 || start + dx + PART > columns) continue;
        const at = here + dy * columns + dx;
        const there = f32x4(cell(quartersA, at), cell(quartersA, at + QUARTER), cell(quartersA, at + below), cell(quartersA, at + below + QUARTER));
        const off = f32x4.sub(there, own);
        const shared = sumOf(off) / 4;
        if (sumOf(f32x4.abs(f32x4.sub(off, f32x4.splat(shared)))) >= best) continue;
        const apart = apartWithin(a + (at << 2), b + (here << 2), line, f32x4.splat((4 * shared) / COUNT), best);
        if (apart >= best) continue;
        best = apart;
        lastX = dx;
        lastY = dy;
      }
      left += Mathf.max(0, best - noise);
      if (left >= enough * all) return left / all;
    }
  return left / all;
}
