import { conversionOf, sameSpace, spaceOf, highRangeOf, tagsOf, BT709, type ColourSpace } from '@idle-bend/core/colour';
import { parsePixelFormat, type ColourTags, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import { placePicture, type Place, type Size } from '@idle-bend/core/framing';
import { ConvertedProvider, type Canvas, type FrameProvider } from '@idle-bend/pipeline';
import { loadConverter } from '../kernels.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { SourceReader } from './source-reader.js';
import type { OpenedSource } from '../probe/source.js';

export interface PictureChoice {
  /** Size to deliver, in square samples; the source's own without it. Pictures are fitted inside, and around them is black. */
  readonly size?: Size | undefined;
  /** Where in that size the picture comes to lie, when not fitted; what stands out is cut off. */
  readonly place?: Place | undefined;
  /** Colour space to deliver; the source's own without it. */
  readonly space?: ColourSpace | undefined;
  /** Pixel format to deliver; the source's own without it. */
  readonly pixelFormat?: string | undefined;
  /** What they are tagged with, where that is not all of the space. */
  readonly tags?: ColourTags | undefined;
  readonly cacheBytes?: number | undefined;
  readonly threads?: number | undefined;
}

/** A source's pictures as they are wanted. Close them when done. */
export interface Pictures extends FrameProvider {
  close(): void;
}

/** The space of a source's pictures. */
export const ownSpace = ({ facts }: OpenedSource): ColourSpace => spaceOf(facts.video!.format);

/** The same in the standard range: high dynamic range becomes BT.709. */
export const standardSpace = (source: OpenedSource): ColourSpace => {
  const own = ownSpace(source);
  return highRangeOf(own) ? BT709 : own;
};

/** Opens a source's pictures: decoded to the codes they have, framed, and converted where they are handed over. Throws `MediaError`. */
export function openPictures(source: OpenedSource, choice: PictureChoice = {}): Pictures {
  const { file, facts, index } = source;
  const { format, pixelFormat: own } = facts.video!;
  const { size, place, cacheBytes, threads, tags } = choice;
  const layout = parsePixelFormat(choice.pixelFormat ?? own);
  if (!layout) throw new MediaError(`${facts.name}: pixel format ${choice.pixelFormat} is not planar.`);
  const framed =
    size && (place || size.width !== format.width || size.height !== format.height)
      ? framingOf(format, size, place)
      : undefined;
  const reader = new SourceReader(file, facts, index, {
    ...framed?.reading,
    ...(cacheBytes && { cacheBytes }),
    ...(threads && { threads }),
  });
  const colour = spokenColour(source, reader.format);
  const conversion = conversionOf({ ...reader.format, colour }, { space: choice.space ?? ownSpace(source), layout });
  const provider = new ConvertedProvider(
    framed?.unseen ? new Black(reader) : reader,
    { conversion, canvas: framed?.canvas, tags: tags ?? (conversion ? undefined : colour) },
    loadConverter(),
  );
  return {
    format: provider.format,
    frameCount: provider.frameCount,
    frames: (wanted) => provider.frames(wanted),
    close: () => reader.close(),
  };
}

/**
 * The colour tags of pictures as they are read. What a source leaves unsaid is judged by its own size; where pictures are scaled so far that
 * the size they have then would be judged otherwise, it is said.
 */
function spokenColour(source: OpenedSource, read: FrameFormat): ColourTags {
  const own = ownSpace(source);
  return sameSpace(spaceOf(read), own) ? read.colour : tagsOf(own, read.colour.chromaLocation);
}

/** Moved out of sight altogether: nothing of it is decoded. */
class Black implements FrameProvider {
  readonly format: FrameFormat;
  readonly frameCount: number;
  constructor(inner: FrameProvider) {
    this.format = { ...inner.format, width: 0, height: 0 };
    this.frameCount = inner.frameCount;
  }
  frames(wanted: readonly number[]): Promise<readonly Frame[]> {
    return Promise.resolve(wanted.map(() => ({ format: this.format, data: new Uint8Array() })));
  }
}

/** How a picture is scaled to its place, square samples first, so that a wide picture in a tall frame keeps its shape; what of it is seen; and where. */
function framingOf({ width, height, pixelAspect }: FrameFormat, size: Size, place: Place | undefined) {
  const at = place ?? placePicture((width * pixelAspect.num) / (height * pixelAspect.den), size);
  const [left, top] = [Math.max(0, at.left), Math.max(0, at.top)];
  const across = Math.min(size.width, at.left + at.width) - left;
  const down = Math.min(size.height, at.top + at.height) - top;
  const canvas: Canvas | undefined = across < size.width || down < size.height ? { ...size, left, top } : undefined;
  if (across < 2 || down < 2) return { unseen: true, reading: { scale: size }, canvas };
  const scale = { width: at.width, height: at.height };
  const isCut = across < at.width || down < at.height;
  const crop = { width: across, height: down, left: Math.max(0, -at.left), top: Math.max(0, -at.top) };
  return { unseen: false, reading: isCut ? { scale, crop } : { scale }, canvas };
}
