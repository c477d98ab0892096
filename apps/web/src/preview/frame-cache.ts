import type { Sample } from '@idle-bend/core/sampling';

/**
 * Frames made as renders make them, kept so that playing them costs nothing. Known by what they are made of: a change of the
 * curve leaves those that are still asked for. Bounded; what was used longest ago goes first.
 */
export class FrameCache {
  private readonly frames = new Map<string, Uint8Array>();
  private bytes = 0;

  constructor(private readonly maxBytes: number) {}

  private static key = (url: string, sample: Sample) => `${url} ${JSON.stringify(sample)}`;

  has(url: string, sample: Sample): boolean {
    return this.frames.has(FrameCache.key(url, sample));
  }

  get(url: string, sample: Sample): Uint8Array | undefined {
    const key = FrameCache.key(url, sample);
    const data = this.frames.get(key);
    if (!data) return undefined;
    this.frames.delete(key);
    this.frames.set(key, data);
    return data;
  }

  keep(url: string, sample: Sample, data: Uint8Array): void {
    if (data.length > this.maxBytes) return;
    this.frames.set(FrameCache.key(url, sample), data.slice());
    this.bytes += data.length;
    for (const [key, { length }] of this.frames) {
      if (this.bytes <= this.maxBytes) break;
      this.frames.delete(key);
      this.bytes -= length;
    }
  }
}
