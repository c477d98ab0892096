import type { OpenedSource } from '../probe/source.js';
import { MediaError } from '../ffmpeg/media-error.js';

/**
 * Puts films of a proxy one after another into one file, without coding them again and without starting a program: every picture at the time of
 * the exact rate, since the times of files in a row are rounded, which adds up. Throws `MediaError` naming the source.
 */
export async function joinProxy(
  { facts, index: { grid } }: OpenedSource,
  films: readonly string[],
  to: string,
  signal: AbortSignal | undefined,
): Promise<void> {
  // Only this needs it; every process would wait for it.
  const {
    EncodedPacketSink,
    EncodedVideoPacketSource,
    FilePathSource,
    FilePathTarget,
    Input,
    MP4,
    Mp4OutputFormat,
    Output,
  } = await import('mediabunny');
  const frameRate = grid.rate.num / grid.rate.den;
  const duration = grid.rate.den / grid.rate.num;
  // Its index comes first, so that it can be read from the beginning; room for it is kept, since a long proxy does not fit in memory.
  const output = new Output({ format: new Mp4OutputFormat({ fastStart: 'reserve' }), target: new FilePathTarget(to) });
  const video = new EncodedVideoPacketSource('avc');
  output.addVideoTrack(video, { frameRate, maximumPacketCount: grid.frames });
  try {
    await output.start();
    let frame = 0;
    for (const film of films) {
      signal?.throwIfAborted();
      const input = new Input({ formats: [MP4], source: new FilePathSource(film) });
      try {
        const track = await input.getPrimaryVideoTrack();
        const decoderConfig = await track?.getDecoderConfig();
        if (!track || !decoderConfig) throw new Error('a piece has no picture');
        for await (const packet of new EncodedPacketSink(track).packets())
          await video.add(packet.clone({ timestamp: frame++ * duration, duration }), { decoderConfig });
      } finally {
        input.dispose();
      }
    }
    await output.finalize();
  } catch (error) {
    await output.cancel().catch(() => undefined);
    signal?.throwIfAborted();
    throw new MediaError(`The proxy of ${facts.name} could not be joined: ${(error as Error).message}.`);
  }
}
