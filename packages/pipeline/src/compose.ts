import { blackFrame, type Frame, type Sample } from '@idle-bend/core';
import type { Kernels } from '@idle-bend/kernels';
import type { FrameProvider } from './frame-provider.js';

/** Makes output frames of one source. Owns the one buffer made frames are written to; used by preview and export alike. */
export class FrameComposer {
  private made: Uint8Array | undefined;
  private black: Frame | undefined;

  constructor(
    private readonly kernels: Kernels,
    private readonly provider: FrameProvider,
  ) {}

  /**
   * The pixels of a sample. A source frame passes through untouched, bit for bit. The frame stays as it is until the
   * next call.
   */
  async compose(sample: Sample): Promise<Frame> {
    if (sample.kind === 'black') return (this.black ??= blackFrame(this.provider.format));
    if (sample.kind === 'source') return (await this.provider.frames([sample.frame]))[0]!;
    const [a, b] = (await this.provider.frames([sample.a, sample.b])) as [Frame, Frame];
    if (this.made?.length !== a.data.length) this.made = new Uint8Array(a.data.length);
    return { format: a.format, data: this.kernels.blend(a, b, sample.fraction, this.made) };
  }
}
