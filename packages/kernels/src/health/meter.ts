import {
  cellsOf,
  DIFFERENCE_BLOCK,
  type FrameDifference,
  type Health,
  HEALTH_LEAD,
  HealthLog,
  type HealthRecords,
  motionIn,
  MOVERS_BLOCK,
  moversIn,
  NO_DIFFERENCE,
  shiftIn,
  type Slopes,
  SUMS,
} from '@idle-bend/core/health';
import { Arena } from '../flow/arena.js';
import { instantiate } from '../instantiate.js';
import type { KernelCalls } from '../kernel-calls.js';
import { type Cells, type Picture, Pictures } from './pictures.js';

/** Pictures that differ by less are of one scene, and are not looked at more closely; 8-bit luma levels. */
const ALIKE_MEAN = 4;

/** What a meter works with, once it knows how large its pictures are. */
interface Workspace {
  readonly columns: number;
  readonly rows: number;
  readonly pictures: Pictures;
  /** As many as are looked back upon, and the one that comes: used in turn. */
  readonly slots: readonly Picture[];
  readonly scratch: number;
  readonly sums: number;
  /** From here on memory is free between pictures. */
  readonly free: number;
  readonly log: HealthLog;
}

/** Takes a source's pictures one after another, all of one size, and says what is found in them. */
export class HealthMeter {
  private readonly arena = new Arena();
  private readonly run: KernelCalls;
  private workspace: Workspace | undefined;
  private count = 0;

  /** @param module the compiled `kernels.wasm` of this package */
  constructor(module: WebAssembly.Module) {
    this.run = instantiate(module, this.arena.memory);
  }

  /** @param data 8-bit luma first, `width × height` */
  add(data: Uint8Array, width: number, height: number): void {
    const { side, columns, rows } = cellsOf(width, height);
    this.take(columns, rows, data.subarray(0, width * height), (from, cells) =>
      this.run.cellsOfLuma(from, width, height, side, columns, rows, cells),
    );
  }

  /** The same of a picture that is there as means of cells (see `cellsOf`), in 256ths of a luma level. */
  addCells(means: Uint16Array, columns: number, rows: number): void {
    const bytes = new Uint8Array(means.buffer, means.byteOffset, means.byteLength);
    this.take(columns, rows, bytes, (from, cells) => this.run.cellsOfMeans(from, columns * rows, cells));
  }

  health(): Health {
    return this.workspace?.log.health() ?? new HealthLog([1, 1]).health();
  }

  /** What was measured of the pictures from the `from`-th that was added on, and what they say of the few before those. */
  records(from: number): HealthRecords {
    return (this.workspace?.log ?? new HealthLog([1, 1])).records(from);
  }

  private take(columns: number, rows: number, data: Uint8Array, toCells: (from: number, cells: number) => void): void {
    const workspace = (this.workspace ??= this.workspaceFor(columns, rows));
    if (workspace.columns !== columns || workspace.rows !== rows)
      throw new RangeError(
        `a picture of ${columns} × ${rows} cells among those of ${workspace.columns} × ${workspace.rows}`,
      );
    const { slots, pictures } = workspace;
    const ago = (frames: number) => slots[(this.count - frames) % slots.length]!;
    const now = ago(0);
    const from = this.arena.take(data.length);
    new Uint8Array(this.arena.memory.buffer).set(data, from);
    toCells(from, now.fine.cells);
    this.arena.release(workspace.free);
    pictures.reduce(now);
    const before = this.count > 0 ? ago(1) : now;
    const [fine, coarse] = [before.fine, before.coarse];
    const difference = this.count > 0 ? this.compare(before, now) : NO_DIFFERENCE;
    const scales = [this.slopes(fine, now.fine, MOVERS_BLOCK), this.slopes(coarse, now.coarse, MOVERS_BLOCK)];
    const cells = now.coarse.columns * now.coarse.rows;
    workspace.log.add(
      difference,
      moversIn(scales, this.run.cellsTotal(now.coarse.cells, cells) / cells),
      (frames, share) =>
        // Both ways: of a picture without structure, such as black, nothing is missing in any other.
        [
          [ago(frames), now],
          [now, ago(frames)],
        ].every(([a, b]) => pictures.unlike(a!, b!, share) < share),
    );
    this.count++;
  }

  private compare(a: Picture, b: Picture): FrameDifference {
    const { columns, rows } = b.fine;
    const mean = this.run.cellsApart(a.fine.cells, b.fine.cells, columns * rows) / (columns * rows);
    const fine = this.slopes(a.fine, b.fine, DIFFERENCE_BLOCK);
    const coarse = this.slopes(a.coarse, b.coarse, DIFFERENCE_BLOCK);
    return {
      mean,
      motion: Math.max(motionIn(fine), motionIn(coarse)),
      shift: shiftIn(fine, columns),
      histogram: b.histogram.reduce((sum, share, i) => sum + Math.abs(share - a.histogram[i]!) / 2, 0),
      unlike: mean < ALIKE_MEAN ? 0 : this.workspace!.pictures.unlike(a, b),
      returned: false,
    };
  }

  private slopes(before: Cells, now: Cells, size: number): Slopes {
    const { columns, rows } = now;
    const { scratch, sums } = this.workspace!;
    const blocks = this.run.blockSlopes(before.cells, now.cells, columns, rows, size, scratch, sums);
    return new Float32Array(this.arena.memory.buffer, sums, blocks * SUMS).slice();
  }

  private workspaceFor(columns: number, rows: number): Workspace {
    const pictures = new Pictures(this.arena, this.run, columns, rows);
    const slots = Array.from({ length: HEALTH_LEAD + 1 }, () => pictures.room());
    const scratch = this.arena.take(SUMS * 4 * (columns + 4));
    const sums = this.arena.take(SUMS * 4 * Math.ceil(columns / MOVERS_BLOCK) * Math.ceil(rows / MOVERS_BLOCK));
    const cells = [slots[0]!.fine, slots[0]!.coarse].map((each) => each.columns * each.rows);
    return { columns, rows, pictures, slots, scratch, sums, free: this.arena.mark(), log: new HealthLog(cells) };
  }
}
