import type { FrameTimes } from '@idle-bend/core/api';
import { upperBound } from '@idle-bend/core/foundation';
import { frameBytes, planeSizes, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { Kernels } from '@idle-bend/kernels';
import { EncodedPacketSink, Input, MATROSKA, MP4, QTFF, UrlSource, WEBM, type EncodedPacket } from 'mediabunny';
import { copyPlanes } from './copy-planes.ts';
import { DecodingRun } from './decoding-run.ts';

/** Pictures that are kept, and what is read of the file, bytes. */
const CACHE_BYTES = 96 * 2 ** 20;
const READ_BYTES = 16 * 2 ** 20;
/** Going back, so many pictures before the one that is wanted are kept with it: they are wanted next. */
const KEPT_BACK = 12;
/** A step back, not a jump. */
const STEP_BACK = 24;
/** A decoder nobody asked for so long is ended. */
const IDLE_MS = 5000;
/** What tells how fast decoding is, at first. */
const TRIAL_FRAMES = 12;
/** Two ways of decoding and scaling one picture differ by less on average, in codes. */
const ALIKE = 4;

/**
 * The frames of footage by number, decoded in this browser from the original, which is read by ranges, and scaled to the size of its proxy. A
 * picture is known by its time, which has to be just the one the server lists for the frame.
 */
export class OriginalProvider {
  private readonly kept = new Map<number, Frame>();
  private readonly most: number;
  private run: DecodingRun | undefined;
  private chain: Promise<unknown> = Promise.resolve();
  private idle: ReturnType<typeof setTimeout> | undefined;
  private newest = 0;
  /** What a picture takes to decode, and to scale, milliseconds. */
  private decodeMs = 0;
  private scaleMs = 0;
  /** Times this decoder begins at: none but the first where it does not take the groups that others reach into. */
  private entries: readonly number[];

  private constructor(
    private readonly input: Input,
    private readonly sink: EncodedPacketSink,
    private readonly config: VideoDecoderConfig,
    private readonly list: FrameTimes,
    private readonly format: FrameFormat,
    private readonly kernels: Kernels,
  ) {
    this.entries = list.keys.slice(0, 1);
    this.most = Math.max(2 * KEPT_BACK, Math.floor(CACHE_BYTES / (format.width * format.height * 1.5)));
  }

  /**
   * @param footage the address of the footage; its times and its file lie under it
   * @param first frame 0 as the server makes it, of the size all shall have
   * @returns nothing where this browser does not decode that, or not to the same picture
   */
  static async open(footage: string, first: Frame, kernels: Kernels): Promise<OriginalProvider | undefined> {
    const answer = await fetch(`${footage}/times`);
    if (!answer.ok) return undefined;
    const list = (await answer.json()) as FrameTimes;
    const source = new UrlSource(`${footage}/original`, { maxCacheSize: READ_BYTES });
    const input = new Input({ source, formats: [MP4, QTFF, MATROSKA, WEBM] });
    let provider: OriginalProvider | undefined;
    try {
      const track = await input.getPrimaryVideoTrack();
      const config = await track?.getDecoderConfig();
      if (track && config && (await VideoDecoder.isConfigSupported(config)).supported) {
        provider = new OriginalProvider(input, new EncodedPacketSink(track), config, list, first.format, kernels);
        if (isAlike(await provider.frame(0), first)) {
          await provider.tryOut();
          return provider;
        }
      }
    } catch {
      // A file this browser cannot read is read by the server.
    }
    if (provider) provider.close();
    else input.dispose();
    return undefined;
  }

  /** Whether frame n was made not long ago. */
  has(n: number): boolean {
    return this.kept.has(this.list.times[n]!);
  }

  /** How long frame n will take, milliseconds, by what others took. */
  costOf(n: number): number {
    const time = this.list.times[n]!;
    if (this.kept.has(time)) return 0;
    const from = this.isReachable(time) ? this.run!.passed : this.keyBefore(time);
    return Math.max(1, n - this.numberAt(from)) * this.decodeMs + this.scaleMs;
  }

  /** Throws where the browser's decoder does not give it. */
  frame(n: number): Promise<Frame> {
    const frame = this.chain.then(() => this.load(n));
    this.chain = frame.catch(() => undefined);
    return frame;
  }

  close(): void {
    clearTimeout(this.idle);
    this.run?.close();
    this.run = undefined;
    this.kept.clear();
    this.input.dispose();
  }

  private async load(n: number): Promise<Frame> {
    clearTimeout(this.idle);
    const time = this.list.times[n]!;
    const known = this.kept.get(time);
    const isStepBack = n < this.newest && this.newest - n <= STEP_BACK;
    this.newest = n;
    if (known) {
      this.keep(time, known);
      return known;
    }
    try {
      if (!this.isReachable(time)) await this.begin(this.keyBefore(time));
      const run = this.run!;
      const [began, before] = [performance.now(), run.count];
      let scaling = 0;
      const from = isStepBack ? this.list.times[Math.max(0, n - KEPT_BACK)]! : time;
      for await (const picture of run.upTo(from, time)) {
        const start = performance.now();
        this.keep(picture.timestamp, await this.scaled(picture));
        scaling += performance.now() - start;
        this.scaleMs = usual(this.scaleMs, performance.now() - start);
      }
      const decoded = run.count - before;
      // Of a few most is the way in and out.
      if (decoded >= TRIAL_FRAMES / 2)
        this.decodeMs = usual(this.decodeMs, (performance.now() - began - scaling) / decoded);
    } catch (error) {
      this.run?.close();
      this.run = undefined;
      throw error;
    }
    this.idle = setTimeout(() => {
      this.run?.close();
      this.run = undefined;
    }, IDLE_MS);
    return this.kept.get(time)!;
  }

  /** Decodes a few, and the same once more, to see how long they take when nothing is in the way. */
  private async tryOut(): Promise<void> {
    const last = Math.min(TRIAL_FRAMES, this.list.times.length - 1);
    const took: number[] = [];
    for (let i = 0; i < 2; i++) {
      this.kept.clear();
      await this.frame(0);
      const start = performance.now();
      await this.frame(last);
      took.push((performance.now() - start - this.scaleMs) / Math.max(1, last));
    }
    this.decodeMs = Math.max(0.1, Math.min(...took));
    const { keys } = this.list;
    const second = keys[1];
    if (second === undefined) return;
    this.entries = keys;
    await this.frame(this.numberAt(second)).catch(() => (this.entries = keys.slice(0, 1)));
  }

  /** Whether decoding goes on to a time from where it is, and no key frame lies nearer. */
  private isReachable(time: number): boolean {
    return this.run !== undefined && this.run.passed < time && this.keyBefore(time) <= this.run.passed;
  }

  private async begin(key: number): Promise<void> {
    this.run?.close();
    this.run = undefined;
    const { num, den } = this.list.timeBase;
    const ticksOf = ({ timestamp }: EncodedPacket) => Math.round((timestamp * den) / num);
    const packet = await this.sink.getKeyPacket(((key + 0.5) * num) / den);
    if (!packet || ticksOf(packet) !== key) throw new Error(`no key frame lies at ${key}`);
    this.run = new DecodingRun(this.config, this.sink, packet, ticksOf);
  }

  private async scaled(picture: VideoFrame): Promise<Frame> {
    const { format } = this;
    try {
      const { width, height } = picture.visibleRect!;
      const data = await copyPlanes(picture, width, height);
      if (width === format.width && height === format.height) return { format, data };
      return {
        format,
        data: this.kernels.place(
          { format: { ...format, width, height }, data },
          format,
          { matrix: [width / format.width, 0, 0, height / format.height], shift: [0, 0] },
          new Uint8Array(frameBytes(format.layout, format.width, format.height)),
        ),
      };
    } finally {
      picture.close();
    }
  }

  private keep(time: number, frame: Frame): void {
    // Most recently used last.
    this.kept.delete(time);
    this.kept.set(time, frame);
    for (const old of this.kept.keys()) {
      if (this.kept.size <= this.most) break;
      this.kept.delete(old);
    }
  }

  private keyBefore(time: number): number {
    return this.entries[lastAtMost(this.entries, time)]!;
  }

  private numberAt(time: number): number {
    return lastAtMost(this.list.times, time);
  }
}

/** The place of the last of increasing numbers that is not above a value; 0 where all are. */
const lastAtMost = (numbers: readonly number[], value: number) => Math.max(0, upperBound(numbers, value) - 1);

/** What something usually takes, with what it took now. */
const usual = (before: number, now: number) => (before === 0 ? now : before + (now - before) / 4);

/** Whether two pictures are the same but for how they were scaled, plane by plane. */
function isAlike(a: Frame, b: Frame): boolean {
  const { layout, width, height } = b.format;
  let at = 0;
  return planeSizes(layout, width, height).every(({ bytes }) => {
    let sum = 0;
    for (const end = at + bytes; at < end; at++) sum += Math.abs(a.data[at]! - b.data[at]!);
    return sum / bytes < ALIKE;
  });
}
