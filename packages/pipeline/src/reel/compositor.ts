import type { Across, Effects } from '@idle-bend/core/look';
import { blackFrame, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { Clip, Source } from '@idle-bend/core/model';
import type { ResolvedFrame, ClipFrame } from '@idle-bend/core/resolve';
import type { Sample } from '@idle-bend/core/sampling';
import type { Kernels, Level } from '@idle-bend/kernels';
import { Accents } from './accents.js';
import { AS_IT_IS, sidesOf, type Side } from './passage.js';
import { isWhole, placingOf } from './placing.js';
import { Titles } from './titles.js';

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

interface Placed extends Side {
  readonly slot: number;
  readonly level: Level | undefined;
  readonly isKept: boolean;
}

/** A picture that no other lies beside. */
const ALONE = { slot: 0, isKept: false, ...AS_IT_IS };

/**
 * The one maker of the reel's pictures: frame by frame, complete, at the size and in the format it is given. Preview and renders only bring
 * source frames and show or write what comes back.
 */
export class ReelCompositor {
  private readonly black: Frame;
  private readonly accents: Accents;
  private readonly titles = new Titles();
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
    const { clipFrame, effects } = resolved;
    const { across, streak, flash, titles } = effects;
    const picture = across
      ? await this.between(resolved, across, level)
      : await this.placed(clipFrame, effects, { ...ALONE, level });
    const drawnOut = streak ? this.accents.streaked(picture, streak) : picture;
    const lit = flash ? this.accents.flashed(drawnOut, flash) : drawnOut;
    if (titles.length === 0) return lit;
    return this.titles.over(lit, titles, ({ colour }) => this.accents.colour(lit, colour));
  }

  /** The pictures of two clips as one, while the first gives way to the second. */
  private async between(
    { clipFrame, beside, effects, goes }: ResolvedFrame,
    across: Across,
    level: Level | undefined,
  ): Promise<Frame> {
    const [first, second] = goes ? [clipFrame, beside] : [beside, clipFrame];
    const sides = sidesOf(this.format, across);
    const from = await this.placed(first, effects, { ...sides[0], slot: 0, level, isKept: true });
    const to = await this.placed(second, effects, { ...sides[1], slot: 1, level, isKept: false });
    return this.accents.between(from, to, across);
  }

  /** A clip's picture where it lies in the reel's. `isKept`: it has to outlast the next one. `seen`: the part that matters. */
  private async placed(
    shown: ClipFrame | undefined,
    effects: Effects,
    { slot, level, isKept, seen, closer, turned }: Placed,
  ): Promise<Frame> {
    if (!shown) return this.black;
    const { clip, source, sample, laid } = shown;
    const picture = await (await this.means.composer(clip, source)).compose(sample, level);
    const { format } = this;
    const { scale, x, y } = effects;
    const placing = placingOf(picture.format, format, {
      ...{ framing: clip.framing, laid, scale: scale * closer, x, y, turned },
    });
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
