import type { Effects } from '@idle-bend/core/look';
import { blackFrame, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { Clip, Source } from '@idle-bend/core/model';
import type { ResolvedFrame, ClipFrame } from '@idle-bend/core/resolve';
import type { Sample } from '@idle-bend/core/sampling';
import type { Kernels, Level, Part } from '@idle-bend/kernels';
import { Accents, seenOf } from './accents.js';
import { isWhole, placingOf } from './placing.js';

/** Makes pictures of one source at the size its frames come. A picture stays as it is until the next call. */
export interface PictureMaker {
  compose(sample: Sample, level?: Level): Promise<Frame>;
}

/** What the compositor needs of the machine it runs on. */
export interface CompositorMeans {
  readonly kernels: Kernels;
  /** What makes pictures of a clip's source, in the reel's layout and colour space, at whatever size its source frames come. */
  composer(clip: Clip, source: Source): Promise<PictureMaker>;
}

interface Placed {
  readonly slot: number;
  readonly level: Level | undefined;
  readonly isKept: boolean;
  readonly seen: Part | undefined;
}

/**
 * The one maker of the reel's pictures: frame by frame, complete, at the size and in the format it is given. Preview and renders only bring
 * source frames and show or write what comes back.
 */
export class ReelCompositor {
  private readonly black: Frame;
  private readonly accents: Accents;
  private readonly rooms: (Uint8Array | undefined)[] = [];

  constructor(
    readonly format: FrameFormat,
    private readonly means: CompositorMeans,
  ) {
    this.black = blackFrame(format);
    this.accents = new Accents(means.kernels);
  }

  /**
   * The finished picture of a frame, in-betweens made at `level`. It stays as it is until the next call; where nothing is to be done to it, it
   * is the source's own, not a copy. Throws what its providers throw.
   */
  async frame(resolved: ResolvedFrame, level?: Level): Promise<Frame> {
    const { clipFrame, effects, beside, goes } = resolved;
    const { push, flash } = effects;
    const seen = push && seenOf(this.format, push, goes);
    const picture = await this.placed(clipFrame, effects, { slot: 0, level, isKept: push !== undefined, seen });
    const pushed = push
      ? this.accents.pushed(picture, await this.other(beside, effects, push, goes, level), push, goes)
      : picture;
    return flash ? this.accents.flashed(pushed, flash) : pushed;
  }

  /** The picture on the other side of a push. */
  private other(
    beside: ClipFrame | undefined,
    effects: Effects,
    push: NonNullable<Effects['push']>,
    goes: boolean,
    level: Level | undefined,
  ): Promise<Frame> {
    return this.placed(beside, effects, { slot: 1, level, isKept: false, seen: seenOf(this.format, push, !goes) });
  }

  /** A clip's picture where it lies in the reel's. `isKept`: it has to outlast the next one. `seen`: the part that matters. */
  private async placed(
    shown: ClipFrame | undefined,
    effects: Effects,
    { slot, level, isKept, seen }: Placed,
  ): Promise<Frame> {
    if (!shown) return this.black;
    const { clip, source, sample, laid } = shown;
    const picture = await (await this.means.composer(clip, source)).compose(sample, level);
    const { format } = this;
    const { scale, x, y } = effects;
    const placing = placingOf(picture.format, format, { framing: clip.framing, laid, scale, x, y });
    if (!isWhole(picture.format, format, placing))
      return { format, data: this.means.kernels.place(picture, format, placing, this.room(slot), seen) };
    if (!isKept) return { format, data: picture.data };
    const room = this.room(slot);
    room.set(picture.data);
    return { format, data: room };
  }

  private room(slot: number): Uint8Array {
    return (this.rooms[slot] ??= new Uint8Array(this.black.data.length));
  }
}
