import type { MediaFileFacts } from '@idle-bend/core/api';
import { framesPerSecond as ratioOf } from '@idle-bend/core/time';
import { gridOf } from './frame-index.js';
import type { TrakBox } from './header-boxes.js';
import { packetsOf, readTables } from './header-index.js';
import { probe } from './probe.js';

/** What sample entries of MP4 and QuickTime files are of. */
const CODECS: readonly (readonly [RegExp, string])[] = [
  [/^avc[1-4]/, 'h264'],
  [/^(hvc|hev|dvh)\w/, 'hevc'],
  [/^av01/, 'av1'],
  [/^vp09/, 'vp9'],
  [/^vp08/, 'vp8'],
  [/^ap(ch|cn|cs|co|4h|4x)/, 'prores'],
  [/^AV(dn|dh)/, 'dnxhd'],
  [/^mp4v/, 'mpeg4'],
  [/^(jpeg|mjp\w)/, 'mjpeg'],
];

/**
 * What a file's headers say of it, for lists of many: of MP4 and QuickTime files without starting a program. Throws `MediaError` for what is
 * not footage or sound.
 */
export async function lookAtHeaders(file: string, name: string): Promise<MediaFileFacts> {
  return (await fromBoxes(file, name).catch(() => undefined)) ?? (await fromProbe(file, name));
}

async function fromBoxes(file: string, name: string): Promise<MediaFileFacts | undefined> {
  const { moov } = (await readTables(file))?.parsed ?? {};
  const track = moov?.traks.find(({ mdia }) => mdia.hdlr.handler === 'vide');
  const entry = track?.mdia.minf.stbl.stsd.entries[0];
  const packets = track && packetsOf(track, moov!.mvhd.timescale);
  if (!track || !entry || !packets || packets.length === 0) return undefined;
  const times = Float64Array.from(packets, ({ pts }) => pts);
  const { rate, frames } = gridOf({ name }, times, 1 / track.mdia.mdhd.timescale, undefined);
  const framesPerSecond = ratioOf(rate);
  return {
    codec: CODECS.find(([pattern]) => pattern.test(entry.type))?.[1] ?? entry.type,
    picture: { ...shownSize(track), framesPerSecond, frames },
    seconds: frames / framesPerSecond,
  };
}

/** The size of its pictures as they are shown: turned where the track is. */
function shownSize({ tkhd, mdia }: TrakBox): { width: number; height: number } {
  const { width, height } = mdia.minf.stbl.stsd.entries[0] as unknown as { width: number; height: number };
  // Of a quarter turn the first number of the matrix is 0.
  return tkhd.matrix[0] === 0 ? { width: height, height: width } : { width, height };
}

async function fromProbe(file: string, name: string): Promise<MediaFileFacts> {
  const { video, sound, durationSeconds } = await probe(file, name);
  const seconds = video?.durationSeconds ?? durationSeconds ?? null;
  const fps = video?.declaredRate && ratioOf(video.declaredRate);
  return {
    codec: video?.codec ?? sound!.codec,
    picture: video
      ? {
          width: video.format.width,
          height: video.format.height,
          framesPerSecond: fps ?? 0,
          frames: Math.round((fps ?? 0) * (seconds ?? 0)),
        }
      : null,
    seconds,
  };
}
