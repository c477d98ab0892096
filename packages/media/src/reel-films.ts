import { covers, placePicture, parsePixelFormat, type Clip, type ColourSpace, type ColourTags, type Project, type Shown } from '@idle-bend/core';
import { FrameComposer, type FlowMeans } from '@idle-bend/pipeline';
import { loadKernels } from './kernels.js';
import { MediaError } from './media-error.js';
import type { OutputKind } from './codec.js';
import { openPictures, type Pictures } from './pictures.js';
import type { OpenedSource } from './source.js';

export interface FilmChoice {
  readonly project: Project;
  readonly open: (sourceId: string) => Promise<OpenedSource>;
  readonly kind: OutputKind;
  /** The pixel format and colour space all clips are handed over in, and the tags of the whole. */
  readonly pixelFormat: string;
  readonly space: ColourSpace;
  readonly tags: ColourTags;
  readonly cacheBytes: number | undefined;
  readonly flow: FlowMeans | undefined;
}

interface Film {
  readonly reader: Pictures;
  readonly composer: FrameComposer;
}

/** The decoders of the clips that are being rendered, each framed as its clip says, opened when first wanted. */
export class ReelFilms {
  private readonly films = new Map<Clip, Film>();
  private readonly kernels = loadKernels();

  constructor(private readonly choice: FilmChoice) {}

  async of({ clip, source }: Pick<Shown, 'clip' | 'source'>): Promise<Film> {
    const known = this.films.get(clip);
    if (known) return known;
    const { project, open, kind, pixelFormat, space, tags, cacheBytes, flow } = this.choice;
    const media = await open(source.id);
    refuseLostAlpha(media, pixelFormat, kind);
    const { width, height } = project.reel;
    const { format } = media.facts.video!;
    const aspect = (format.width * format.pixelAspect.num) / (format.height * format.pixelAspect.den);
    const place = placePicture(aspect, project.reel, clip.framing ?? undefined);
    const size = { width, height };
    const reader = openPictures(media, { size, pixelFormat, space, tags, cacheBytes, ...(!covers(place, size) && { place }) });
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

/** Throws where a clip has transparency and the output's pictures have no place for it. */
function refuseLostAlpha({ facts }: OpenedSource, pixelFormat: string, { codec }: OutputKind): void {
  if (!facts.video!.format.layout.alpha || parsePixelFormat(pixelFormat)?.alpha) return;
  const why =
    codec === 'ffv1'
      ? 'the first clip of the reel has none, and a render has one format; put a clip with transparency first'
      : `${codec} cannot carry it; render lossless (MKV)`;
  throw new MediaError(`${facts.name} has transparency: ${why}.`);
}
