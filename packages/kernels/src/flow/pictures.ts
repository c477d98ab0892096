import { bytesPerSample, planeSizes, type Frame } from '@idle-bend/core/frame';
import type { FlowKernels, Sloped } from './flow-kernels.js';
import { sizeAt, takePlane, type Plane } from './planes.js';

/** A picture is frame 0 of one pair and 1 of another, and both are estimated before the one in between is made. */
const KEPT = 4;
/** The short side of the coarsest level is about this many samples. */
const COARSEST = 18;

/** One frame's planes in the kernels' memory: luma at every pyramid level with its slopes, and the rest. Made when asked for. */
export class Picture {
  key: number | undefined;
  private readonly raw: number;
  private readonly levels: readonly Sloped[];
  private readonly others: readonly Plane[];
  private halved = 0;
  private sloped = 0;
  private othersMade = false;

  constructor(
    private readonly kernels: FlowKernels,
    private readonly format: Frame['format'],
    bytes: number,
  ) {
    const { arena } = kernels;
    const { width, height, layout } = format;
    this.raw = arena.take(bytes);
    const count = levelCount(width, height);
    this.levels = Array.from({ length: count }, (_, l) => {
      const plane = () => takePlane(arena, sizeAt(width, l), sizeAt(height, l));
      return { ...plane(), alongX: plane().at, alongY: plane().at };
    });
    this.others = planeSizes(layout, width, height)
      .slice(1)
      .map((plane) => takePlane(arena, plane.width, plane.height));
  }

  fill({ data }: Frame, key: number | undefined): void {
    this.key = key;
    new Uint8Array(this.kernels.arena.memory.buffer).set(data, this.raw);
    this.widen(this.levels[0]!, 0);
    this.halved = 1;
    this.sloped = 0;
    this.othersMade = false;
  }

  /** Luma, finest first, down to the level of about 20 samples. */
  get lumas(): readonly Plane[] {
    for (; this.halved < this.levels.length; this.halved++)
      this.kernels.halve(this.levels[this.halved - 1]!, this.levels[this.halved]!);
    return this.levels;
  }

  /** As `lumas`, with slopes. */
  get pyramid(): readonly Sloped[] {
    void this.lumas;
    for (; this.sloped < this.levels.length; this.sloped++) this.kernels.slopes(this.levels[this.sloped]!);
    return this.levels;
  }

  /** The planes after luma, in the frame's order. */
  get rest(): readonly Plane[] {
    const { width, height, layout } = this.format;
    const sizes = planeSizes(layout, width, height);
    let start = sizes[0]!.bytes;
    if (!this.othersMade)
      for (const [i, plane] of this.others.entries()) {
        this.widen(plane, start);
        start += sizes[i + 1]!.bytes;
      }
    this.othersMade = true;
    return this.others;
  }

  private widen({ at, stride, width, height }: Plane, start: number): void {
    const { layout } = this.format;
    if (bytesPerSample(layout) === 1) this.kernels.run.widen8(this.raw + start, width, at, stride, width, height);
    else this.kernels.run.widen16(this.raw + start, width, at, stride, width, height, layout.bitDepth);
  }
}

/** The pictures used last. All are of one format; another format starts afresh. */
export class Pictures {
  private held: Picture[] = [];
  private format: Frame['format'] | undefined;
  private readonly start: number;

  constructor(private readonly kernels: FlowKernels) {
    this.start = kernels.arena.mark();
  }

  /** The frame's picture; with a key the one of that key, if it is still held: a key stands for the same pixels always. */
  of(frame: Frame, key: number | undefined): Picture {
    if (!this.format || !sameShape(this.format, frame.format)) {
      this.kernels.arena.release(this.start);
      this.format = frame.format;
      this.held = Array.from({ length: KEPT }, () => new Picture(this.kernels, frame.format, frame.data.length));
    }
    const found = key === undefined ? undefined : this.held.find((picture) => picture.key === key);
    const picture = found ?? this.held.at(-1)!;
    this.held = [picture, ...this.held.filter((other) => other !== picture)];
    if (!found) picture.fill(frame, key);
    return picture;
  }
}

const sameShape = (a: Frame['format'], b: Frame['format']) =>
  a.width === b.width && a.height === b.height && JSON.stringify(a.layout) === JSON.stringify(b.layout);

function levelCount(width: number, height: number): number {
  let count = 1;
  while (Math.min(sizeAt(width, count), sizeAt(height, count)) >= COARSEST) count++;
  return count;
}
