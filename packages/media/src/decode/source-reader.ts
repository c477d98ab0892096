import { frameBytes, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import { upperBound } from '@idle-bend/core/foundation';
import type { Place, Size } from '@idle-bend/core/framing';
import { decodedFrame } from '@idle-bend/core/time';
import type { FrameProvider } from '@idle-bend/pipeline';
import type { FrameIndex } from '../probe/frame-index.js';
import { MediaError } from '../ffmpeg/media-error.js';
import type { MediaFacts } from '../probe/probe.js';
import { BufferPool, RawStream } from './raw-stream.js';

export interface ReaderOptions {
  /** Size the picture is scaled to, in square samples; the source's own without it. */
  readonly scale?: Size;
  /** The part of that which is wanted. */
  readonly crop?: Place;
  /** How many bytes of decoded pictures may be kept. */
  readonly cacheBytes?: number;
  readonly threads?: number;
}

/** Of pictures of so many bytes fewer are kept than a made frame wants at once. */
const LARGE = 96 * 2 ** 20;
const DEFAULT_CACHE_BYTES = 192 * 1024 * 1024;
/** Jumping ahead past this many frames starts again at a nearer key frame instead of decoding all between. */
const MAX_SKIP = 48;
/** How often a frame of an estimated list is entered earlier for. */
const MAX_TRIES = 3;

/**
 * A file's frames by number on its constant grid, in the codes they have in the file, decoded by ffmpeg. Forward it reads one stream on;
 * in reverse it decodes windows that end at the wanted frame, as many pictures as the cache holds, so memory is
 * bounded however far key frames are apart. Close it when done.
 */
export class SourceReader implements FrameProvider {
  readonly format: FrameFormat;
  readonly frameCount: number;
  private readonly bytes: number;
  private readonly pool: BufferPool;
  /** Decoded pictures by decoded-frame number, oldest first. */
  private readonly cache = new Map<number, Uint8Array>();
  private readonly capacity: number;
  private readonly filters: string[];
  private stream: { readonly raw: RawStream; next: number; readonly last: number } | undefined;
  private newest = -1;

  constructor(
    private readonly file: string,
    private readonly facts: MediaFacts,
    private readonly index: FrameIndex,
    private readonly options: ReaderOptions = {},
  ) {
    const video = facts.video!;
    const { scale, crop } = options;
    this.filters = [
      ...(scale ? [scaledTo(scale)] : []),
      ...(crop ? [`crop=${crop.width}:${crop.height}:${crop.left}:${crop.top}`] : []),
    ];
    const { width, height } = crop ?? scale ?? video.format;
    const { layout } = video.format;
    this.format = { ...video.format, width, height, ...(scale && { pixelAspect: { num: 1, den: 1 } }) };
    this.frameCount = index.grid.frames;
    this.bytes = frameBytes(layout, width, height);
    this.pool = new BufferPool(this.bytes);
    this.capacity = Math.max(
      this.bytes > LARGE ? 2 : 4,
      Math.floor((options.cacheBytes ?? DEFAULT_CACHE_BYTES) / this.bytes),
    );
  }

  async frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    const decoded = wanted.map((n) => {
      if (!Number.isInteger(n) || n < 0 || n >= this.frameCount)
        throw new MediaError(`${this.facts.name} has no frame ${n}; it has 0 to ${this.frameCount - 1}.`);
      return decodedFrame(this.index.grid, n);
    });
    const keep = new Set(decoded);
    for (const n of [...keep].sort((a, b) => a - b)) if (!this.cache.has(n)) await this.load(n, keep);
    this.newest = Math.max(...decoded);
    return decoded.map((n) => ({ format: this.format, data: this.cache.get(n)! }));
  }

  close(): void {
    this.stream?.raw.close();
    this.stream = undefined;
    this.cache.clear();
  }

  private async load(n: number, keep: ReadonlySet<number>): Promise<void> {
    const { stream } = this;
    const ahead = stream ? n - stream.next : -1;
    const reachable =
      stream && ahead >= 0 && n <= stream.last && (ahead <= MAX_SKIP || this.keyBefore(n) <= stream.next);
    // A jump back is no step back: what lies before it is not decoded along with it.
    const isStepBack = n < this.newest && this.newest - n <= MAX_SKIP;
    if (!reachable) this.open(n, isStepBack ? this.windowStart(n) : undefined);
    for (;;) {
      const current = this.stream!;
      const picture = await current.raw.next();
      const at = picture && this.numberOf(picture.time);
      if (picture && at === undefined) {
        this.pool.give(picture.data);
        continue;
      }
      if (!picture || at! > n) {
        // The demuxer went past the frame, or its group of pictures could not be entered there: enter earlier.
        if (picture) this.pool.give(picture.data);
        if (!this.enterEarlier(n))
          throw new MediaError(`${this.facts.name}: frame ${n} could not be decoded; the file may be damaged there.`);
        continue;
      }
      current.next = at! + 1;
      this.store(at!, picture.data, keep);
      if (at === n) return;
    }
  }

  private entry: { wanted: number; first: number; key: number; tries: number } | undefined;

  /** Starts decoding for frame n: onward from it, or the window from `first` up to it. */
  private open(n: number, first: number | undefined): void {
    this.start(n, first ?? n, first === undefined ? undefined : n, this.keyIndexBefore(first ?? n));
  }

  private start(wanted: number, first: number, last: number | undefined, key: number, tries = 0): void {
    this.stream?.raw.close();
    const { times } = this.index;
    const raw = new RawStream(
      {
        file: this.file,
        name: this.facts.name,
        video: this.facts.video!,
        seekSeconds: seekSeconds(this.facts, this.index, key),
        from: times[first]! - this.tolerance,
        to: last === undefined ? undefined : times[last]! + this.tolerance,
        filters: this.filters,
        pixelFormat: this.facts.video!.decodedAs,
        frameBytes: this.bytes,
        threads: this.options.threads,
      },
      this.pool,
    );
    this.stream = { raw, next: first, last: last ?? times.length - 1 };
    this.entry = { wanted, first, key, tries };
  }

  private enterEarlier(n: number): boolean {
    const { entry } = this;
    if (!entry || entry.key <= 0) return false;
    // An estimated frame may not be there at all.
    if (this.index.isEstimated && entry.tries >= MAX_TRIES) return false;
    const back = entry.wanted - entry.key > 4 ? 2 : 1;
    this.start(
      n,
      Math.min(entry.first, n),
      this.stream!.last === this.index.times.length - 1 ? undefined : this.stream!.last,
      Math.max(0, entry.key - back),
      entry.tries + 1,
    );
    return true;
  }

  /** The first frame of the window decoded at once in reverse: a key frame where one leaves at least half a window. */
  private windowStart(n: number): number {
    const longest = Math.max(1, Math.floor(this.capacity * 0.75));
    const key = this.keyBefore(n);
    return n - key < longest && n - key >= longest / 2 ? key : Math.max(0, n - longest + 1);
  }

  private keyBefore(n: number): number {
    const at = this.keyIndexBefore(n);
    return at < 0 ? 0 : this.index.keys[at]!;
  }

  private keyIndexBefore(n: number): number {
    return keyIndexBefore(this.index, n);
  }

  /** Of an estimated list the frame it is nearest to. */
  private numberOf(time: number): number | undefined {
    const { times } = this.index;
    const at = upperBound(times, time + this.tolerance) - 1;
    return at >= 0 && time <= times[at]! + this.tolerance ? at : undefined;
  }

  /** How far a picture may be from its frame, ticks: of an estimated list just under half the way to the next. */
  private get tolerance(): number {
    const { times, isEstimated } = this.index;
    const spacing = (times.at(-1)! - times[0]!) / Math.max(1, times.length - 1);
    return isEstimated ? Math.max(0, Math.ceil(spacing / 2) - 1) : 0;
  }

  private store(n: number, data: Uint8Array, keep: ReadonlySet<number>): void {
    const old = this.cache.get(n);
    if (old) {
      this.pool.give(data);
      return;
    }
    for (const [key, buffer] of this.cache) {
      if (this.cache.size < this.capacity) break;
      if (keep.has(key)) continue;
      this.cache.delete(key);
      this.pool.give(buffer);
    }
    this.cache.set(n, data);
  }
}

/** How pictures are scaled, wherever that is done for frames that are compared. */
export const scaledTo = ({ width, height }: Size): string =>
  `scale=w=${width}:h=${height}:flags=bicubic+accurate_rnd+full_chroma_int`;

/** Which key frame is the last at or before a decoded frame; −1 where the first comes after it. */
export const keyIndexBefore = ({ keys }: FrameIndex, n: number): number => upperBound(keys, n) - 1;

/** Where the demuxer is sent to, so that it begins at that key frame; undefined for the beginning of the file. */
export function seekSeconds(facts: MediaFacts, { times, keys }: FrameIndex, key: number): number | undefined {
  const { timeBase } = facts.video!;
  const keyFrame = key < 0 ? 0 : keys[key]!;
  if (keyFrame === 0) return undefined;
  // Half a frame past the key frame, so that rounding cannot fall before it.
  const half = keyFrame + 1 < times.length ? (times[keyFrame + 1]! - times[keyFrame]!) / 2 : 0;
  return ((times[keyFrame]! + half) * timeBase.num) / timeBase.den - facts.startSeconds;
}
