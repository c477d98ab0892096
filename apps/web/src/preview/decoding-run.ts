import type { EncodedPacket, EncodedPacketSink } from 'mediabunny';

/** Packets that wait in front of the decoder: it works on several at once. */
const MOST_QUEUED = 4;

/** Decoding from one key frame onwards, packet by packet, as far as pictures are asked for. A picture is known by its time, in ticks. */
export class DecodingRun {
  private readonly decoder: VideoDecoder;
  /** Pictures that came out and were not asked for yet, in order. */
  private readonly pictures: VideoFrame[] = [];
  private latest = -Infinity;
  private failure: Error | undefined;
  private isBegun = false;
  private isFlushed = false;
  private wake: () => void = () => undefined;
  /** Pictures that came out. */
  count = 0;

  /** @param next the key frame's packet @param ticksOf when a packet is shown */
  constructor(
    config: VideoDecoderConfig,
    private readonly sink: EncodedPacketSink,
    private next: EncodedPacket | null,
    private readonly ticksOf: (packet: EncodedPacket) => number,
  ) {
    this.decoder = new VideoDecoder({
      output: (picture) => {
        this.pictures.push(picture);
        this.latest = picture.timestamp;
        this.count++;
        this.wake();
      },
      error: (error) => {
        this.failure = error;
        this.wake();
      },
    });
    this.decoder.ondequeue = () => this.wake();
    this.decoder.configure(config);
  }

  /** The time of the last picture that was handed out or passed by; whatever comes later can still be asked for. */
  passed = -Infinity;

  /** Pictures from one time up to another, in order; whoever gets one closes it. Throws where the last does not come out. */
  async *upTo(from: number, to: number): AsyncGenerator<VideoFrame> {
    for (;;) {
      const picture = this.pictures.shift();
      if (picture) {
        const time = picture.timestamp;
        this.passed = time;
        if (time >= from && time <= to) yield picture;
        else picture.close();
        if (time === to) return;
        if (time > to) throw new Error('a picture did not come out of the decoder');
      } else await this.more();
    }
  }

  close(): void {
    // Whoever still waits for a picture is told.
    this.failure ??= new Error('decoding was broken off');
    for (const picture of this.pictures.splice(0)) picture.close();
    if (this.decoder.state !== 'closed') this.decoder.close();
    this.wake();
  }

  /** Another packet goes in, or what is in comes out. */
  private async more(): Promise<void> {
    if (this.failure) throw this.failure;
    if (!this.next) {
      if (this.isFlushed) throw new Error(`nothing comes out of the decoder after ${this.latest}`);
      this.isFlushed = true;
      return this.decoder.flush();
    }
    if (this.decoder.decodeQueueSize >= MOST_QUEUED)
      return new Promise((resolve) => {
        this.wake = resolve;
      });
    const { data } = this.next;
    // Only where it begins: a group that others reach into does not begin as browsers want a key frame to.
    const type = this.isBegun ? 'delta' : 'key';
    this.isBegun = true;
    this.decoder.decode(new EncodedVideoChunk({ type, data, timestamp: this.ticksOf(this.next) }));
    this.next = await this.sink.getNextPacket(this.next);
  }
}
