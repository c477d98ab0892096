import { PROXY_GROUP } from '@idle-bend/core/proxy';
import { NO_COLOUR_TAGS, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import type { FrameProvider } from '@idle-bend/pipeline';
import { copyPlanes } from './copy-planes.ts';
import { EncodedPacketSink, Input, MP4, UrlSource, type EncodedPacket } from 'mediabunny';

const GROUP = PROXY_GROUP;
const CACHE_BYTES = 220 * 1024 * 1024;

/** A proxy's frames by number, decoded with WebCodecs one group of pictures at a time and kept while there is room. */
export class ProxyProvider implements FrameProvider {
  private readonly groups = new Map<number, Promise<Frame[]>>();
  private readonly most: number;
  private chain: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly sink: EncodedPacketSink,
    private readonly config: VideoDecoderConfig,
    private readonly rate: number,
    readonly format: FrameFormat,
    readonly frameCount: number,
    cacheBytes: number,
  ) {
    this.most = Math.max(6, Math.floor(cacheBytes / (format.width * format.height * 1.5 * GROUP)));
  }

  static async open(
    url: string,
    frameCount: number,
    framesPerSecond: number,
    cacheBytes = CACHE_BYTES,
  ): Promise<ProxyProvider> {
    const input = new Input({ source: new UrlSource(url), formats: [MP4] });
    const track = await input.getPrimaryVideoTrack();
    const config = track && (await track.getDecoderConfig());
    if (!track || !config) throw new Error('the proxy has no picture that can be decoded here');
    const colour = config.colorSpace;
    const format: FrameFormat = {
      width: await track.getCodedWidth(),
      height: await track.getCodedHeight(),
      layout: { model: 'yuv', bitDepth: 8, chromaShiftX: 1, chromaShiftY: 1, alpha: false },
      colour: {
        ...NO_COLOUR_TAGS,
        matrix: colour?.matrix ?? undefined,
        primaries: colour?.primaries ?? undefined,
        transfer: colour?.transfer ?? undefined,
        range: colour?.fullRange ? 'full' : 'limited',
      },
      pixelAspect: { num: 1, den: 1 },
    };
    return new ProxyProvider(
      new EncodedPacketSink(track),
      { ...config, hardwareAcceleration: 'prefer-software', optimizeForLatency: true },
      framesPerSecond,
      format,
      frameCount,
      cacheBytes,
    );
  }

  async frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    const groups = await Promise.all(wanted.map((n) => this.group(Math.floor(n / GROUP))));
    return wanted.map((n, i) => {
      const frame = groups[i]![n % GROUP];
      if (!frame) throw new Error(`frame ${n} is not in the proxy`);
      return frame;
    });
  }

  /** Decodes what will be wanted soon, without waiting for it. */
  prefetch(frame: number): void {
    if (frame >= 0 && frame < this.frameCount) this.group(Math.floor(frame / GROUP)).catch(() => undefined);
  }

  private group(index: number): Promise<Frame[]> {
    let group = this.groups.get(index);
    if (group) {
      // Most recently used last.
      this.groups.delete(index);
    } else {
      group = this.chain.then(() => this.decode(index));
      this.chain = group.catch(() => undefined);
      group.catch(() => this.groups.delete(index));
    }
    this.groups.set(index, group);
    for (const key of this.groups.keys()) {
      if (this.groups.size <= this.most) break;
      this.groups.delete(key);
    }
    return group;
  }

  private async decode(index: number): Promise<Frame[]> {
    const first = index * GROUP;
    const count = Math.min(GROUP, this.frameCount - first);
    const copies: Promise<Frame>[] = [];
    let failure: Error | undefined;
    const decoder = new VideoDecoder({
      output: (picture) => copies.push(this.copy(picture)),
      error: (error) => (failure = error),
    });
    decoder.configure(this.config);
    let packet: EncodedPacket | null = await this.sink.getKeyPacket((first + 0.5) / this.rate);
    for (let n = 0; n < count && packet; n++) {
      decoder.decode(packet.toEncodedVideoChunk());
      packet = await this.sink.getNextPacket(packet);
    }
    await decoder.flush();
    decoder.close();
    if (failure) throw failure;
    return Promise.all(copies);
  }

  private async copy(picture: VideoFrame): Promise<Frame> {
    const { width, height } = this.format;
    try {
      return { format: this.format, data: await copyPlanes(picture, width, height) };
    } finally {
      picture.close();
    }
  }
}
