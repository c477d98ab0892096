import type { ColourSpace } from '@idle-bend/core/colour';
import { parsePixelFormat, type FrameFormat } from '@idle-bend/core/frame';
import { placePicture, type Size } from '@idle-bend/core/framing';
import type { Clip, Project } from '@idle-bend/core/model';
import type { ClipFrame } from '@idle-bend/core/resolve';
import { FrameComposer, type FlowMeans } from '@idle-bend/pipeline';
import { loadKernels } from '../kernels.js';
import { MediaError } from '../ffmpeg/media-error.js';
import type { OutputKind } from './codec.js';
import { openPictures, type Pictures } from '../decode/pictures.js';
import type { OpenedSource } from '../probe/source.js';

export interface FilmChoice {
  readonly project: Project;
  readonly open: (sourceId: string) => Promise<OpenedSource>;
  readonly kind: OutputKind;
  /** The pixel format and colour space all clips are handed over in. */
  readonly pixelFormat: string;
  readonly space: ColourSpace;
  readonly cacheBytes: number | undefined;
  readonly flow: FlowMeans | undefined;
  /** Pictures keep the size their source has, in square samples. */
  readonly ownSize: boolean;
}

interface Film {
  readonly reader: Pictures;
  readonly composer: FrameComposer;
}

/** The decoders of the clips that are being rendered, each at the size its clip has on the reel, opened when first wanted. */
export class ReelFilms {
  private readonly films = new Map<Clip, Film>();
  private readonly kernels = loadKernels();

  constructor(private readonly choice: FilmChoice) {}

  async of({ clip, source }: Pick<ClipFrame, 'clip' | 'source'>): Promise<Film> {
    const known = this.films.get(clip);
    if (known) return known;
    const { project, open, kind, pixelFormat, space, cacheBytes, flow, ownSize } = this.choice;
    const media = await open(source.id);
    refuseLostAlpha(media, pixelFormat, kind);
    const { format } = media.facts.video!;
    const size = ownSize ? squareSize(format) : scaledSize(format, project.reel, clip);
    const isOwn = size.width === format.width && size.height === format.height;
    const reader = openPictures(media, {
      size,
      pixelFormat,
      space,
      cacheBytes,
      ...(!isOwn && { place: { left: 0, top: 0, ...size } }),
    });
    const film = { reader, composer: new FrameComposer(this.kernels, reader, flow) };
    this.films.set(clip, film);
    return film;
  }

  /** Closes the decoders of all clips but those. */
  keepOnly(clips: ReadonlySet<Clip>): void {
    for (const [clip, { reader }] of this.films) {
      if (clips.has(clip)) continue;
      reader.close();
      this.films.delete(clip);
    }
  }

  close(): void {
    this.keepOnly(new Set());
  }
}

const even = (x: number) => Math.max(2, 2 * Math.round(x / 2));

/** A picture's size in square samples. */
function squareSize({ width, height, pixelAspect: { num, den } }: FrameFormat): Size {
  return num === den ? { width, height } : { width: even((width * num) / den), height };
}

/** Decoders scale better than the kernel that lays pictures does; but what is drawn very close they would scale to more than memory holds. */
const MAX_ENLARGED = 4;

/** The size a clip's picture has on the reel, or, where that is far larger than both, a smaller one of its shape. */
function scaledSize(format: FrameFormat, reel: Size, clip: Clip): Size {
  const own = squareSize(format);
  const place = placePicture(
    (format.width * format.pixelAspect.num) / (format.height * format.pixelAspect.den),
    reel,
    clip.framing ?? undefined,
  );
  const most = MAX_ENLARGED * Math.max(own.width * own.height, reel.width * reel.height);
  const shrink = Math.min(1, Math.sqrt(most / (place.width * place.height)));
  return shrink === 1
    ? { width: place.width, height: place.height }
    : { width: even(place.width * shrink), height: even(place.height * shrink) };
}

/** Throws where a clip has transparency and the output's pictures have no place for it. */
function refuseLostAlpha({ facts }: OpenedSource, pixelFormat: string, { codec }: OutputKind): void {
  if (!facts.video!.format.layout.alpha || parsePixelFormat(pixelFormat)?.alpha) return;
  const why =
    codec === 'ffv1'
      ? 'the first clip of the reel has no transparency, and a render has one format; put a clip with transparency first'
      : `${codec} cannot carry it; render lossless (MKV)`;
  throw new MediaError(`${facts.name} has transparency: ${why}.`);
}
