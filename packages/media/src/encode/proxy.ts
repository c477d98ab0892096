import type { ColourTags } from '@idle-bend/core/frame';
import { sameSpace } from '@idle-bend/core/colour';
import { cellsOf } from '@idle-bend/core/health';
import { PROXY_GROUP, proxySize } from '@idle-bend/core/proxy';
import { collect, lastComplaint, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { openPictures, ownSpace, standardSpace, type Pictures } from '../decode/pictures.js';
import type { OpenedSource } from '../probe/source.js';

const STRIP_PICTURES = 24;
const STRIP_HEIGHT = 144;

export const PROXY_FORMAT = 'yuv420p';

/** Formats whose samples are those of a proxy; the second is of full range. */
const ALIKE = [PROXY_FORMAT, 'yuvj420p'];

/** The size a proxy is to have, pixels. */
export interface ProxySize {
  readonly width: number;
  readonly height: number;
}

/** What a source's proxy has where nobody says otherwise. */
export const usualSize = (source: OpenedSource): ProxySize => proxySize(source.facts.video!.format);

/**
 * A source's pictures as its editing proxy has them, frame for frame of the source's constant grid: its size, 8-bit 4:2:0, high dynamic range brought to the
 * standard range.
 */
export const proxyPictures = (source: OpenedSource, size: ProxySize = usualSize(source)): Pictures =>
  openPictures(source, {
    size,
    pixelFormat: PROXY_FORMAT,
    space: standardSpace(source),
  });

/** What a proxy's pictures are tagged with. */
export function proxyColour(source: OpenedSource, size: ProxySize): ColourTags {
  const pictures = proxyPictures(source, size);
  pictures.close();
  return pictures.format.colour;
}

/**
 * Whether ffmpeg alone makes a source's proxy: each picture of it is one of the source, scaled at most. Else pictures are held, left out or
 * converted here.
 */
export function isMadeStraight(source: OpenedSource, { width, height }: ProxySize): boolean {
  return (
    source.index.grid.slots === undefined &&
    ALIKE.includes(source.facts.video!.decodedAs) &&
    sameSpace(standardSpace(source), ownSpace(source)) &&
    Math.min(width, height) >= cellsOf(width, height).side
  );
}

/** A small picture that stands for a file, as JPEG: a moment near its beginning. Throws `MediaError`. */
export async function poster(file: string, name: string): Promise<Buffer> {
  for (const seconds of POSTER_SECONDS) {
    const { stdout } = await collect(
      'ffmpeg',
      [
        // From a key frame: what lies between need not be decoded.
        ...['-v', 'error', '-nostdin', '-noaccurate_seek', '-ss', String(seconds)],
        ...safeInput(file),
        ...['-map', '0:v:0', '-frames:v', '1'],
        ...['-vf', `scale=trunc(ih*dar/2)*2:ih,scale=-2:${STRIP_HEIGHT}:flags=area,setsar=1`],
        ...['-q:v', '4', '-f', 'mjpeg', 'pipe:1'],
      ],
      { seconds: 60, explain: (complaint) => `No picture of ${name} could be made: ${lastComplaint(complaint)}.` },
    );
    if (stdout.length > 0) return stdout;
  }
  throw new MediaError(`No picture of ${name} could be made.`);
}

/** Where the picture that stands for a file is looked for: shorter ones have nothing at the first. */
const POSTER_SECONDS = [1, 0];

/** How a filmstrip's pictures are chosen: every `step`-th frame, `count` of them. */
export function stripLayout(frames: number): { step: number; count: number } {
  const step = Math.max(1, Math.ceil(frames / STRIP_PICTURES));
  return { step, count: Math.ceil(frames / step) };
}

/**
 * Small pictures of a clip side by side, as one JPEG, from its proxy. Where they lie further apart than its key frames, each is of the key frame
 * at or before its own, so that nothing else has to be decoded.
 */
export async function filmstrip(proxy: string, name: string, frames: number, signal?: AbortSignal): Promise<Buffer> {
  const { step, count } = stripLayout(frames);
  const isSparse = step >= PROXY_GROUP;
  const keyAt = (i: number) => `eq(n,${Math.floor((i * step) / PROXY_GROUP)})`;
  const chosen = isSparse ? Array.from({ length: count }, (_, i) => keyAt(i)).join('+') : `not(mod(n,${step}))`;
  const { stdout } = await collect(
    'ffmpeg',
    [
      ...['-v', 'error', '-nostdin', ...(isSparse ? ['-skip_frame', 'nokey'] : [])],
      ...safeInput(proxy),
      ...[
        '-vf',
        `select='${chosen}',scale=-2:${STRIP_HEIGHT}:flags=area,tile=${count}x1`,
        '-frames:v',
        '1',
        '-q:v',
        '3',
        '-f',
        'mjpeg',
        'pipe:1',
      ],
    ],
    {
      seconds: 60 + frames / 50,
      signal,
      explain: (complaint) => `The filmstrip of ${name} could not be made: ${lastComplaint(complaint)}.`,
    },
  );
  if (stdout.length === 0) throw new MediaError(`The filmstrip of ${name} could not be made.`);
  return stdout;
}
