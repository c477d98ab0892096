import type { Effects } from '@idle-bend/core/look';
import { blackFrame, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { Clip, Source } from '@idle-bend/core/model';
import type { ResolvedFrame, ClipFrame } from '@idle-bend/core/resolve';
import type { Sample } from '@idle-bend/core/sampling';
import type { Exposure, Kernels, Level } from '@idle-bend/kernels';
import { Accents } from './accents.js';
import { isWhole, placingOf } from './placing.js';

/** Makes pictures of one source at the size its frames come. A picture stays as it is until the next call. */
export interface PictureMaker {
  compose(sample: Sample, level?: Level): Promise<Frame>;
}

/** What the compositor needs of the machine it runs on. */
export interface CompositorMeans {
  readonly kernels: Kernels;
  readonly exposure: Exposure;
  /** What makes pictures of a clip's source, in the reel's layout and colour space, at whatever size its source frames come. */
  composer(clip: Clip, source: Source): Promise<PictureMaker>;
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
    this.accents = new Accents(means.kernels, means.exposure);
  }

  /**
   * The finished picture of a frame, in-betweens made at `level`. It stays as it is until the next call; where nothing is to be done to it, it
   * is the source's own, not a copy. Throws what its providers throw.
   */
  async frame(resolved: ResolvedFrame, level?: Level): Promise<Frame> {
    const { clipFrame, effects, beside, goes } = resolved;
    const picture = await this.placed(clipFrame, effects, 0, level, effects.push !== undefined);
    const { push, flash } = effects;
    const pushed = push
      ? this.accents.pushed(picture, await this.placed(beside, effects, 1, level, false), push, goes)
      : picture;
    return flash ? this.accents.flashed(pushed, flash) : pushed;
  }

  /** A clip's picture where it lies in the reel's. `isKept`: it has to outlast the next one. */
  private async placed(
    shown: ClipFrame | undefined,
    effects: Effects,
    slot: number,
    level: Level | undefined,
    isKept: boolean,
  ): Promise<Frame> {
    if (!shown) return this.black;
    const { clip, source, sample, laid } = shown;
    const picture = await (await this.means.composer(clip, source)).compose(sample, level);
    const { format } = this;
    const { scale, x, y } = effects;
    const placing = placingOf(picture.format, format, { framing: clip.framing, laid, scale, x, y });
    if (!isWhole(picture.format, format, placing))
      return { format, data: this.means.kernels.place(picture, format, placing, this.room(slot)) };
    if (!isKept) return { format, data: picture.data };
    const room = this.room(slot);
    room.set(picture.data);
    return { format, data: room };
  }

  private room(slot: number): Uint8Array {
    return (this.rooms[slot] ??= new Uint8Array(this.black.data.length));
  }
}
