import { availableParallelism } from 'node:os';
import { BT709, highRangeOf, sameSpace, spaceIn, spaceOf, tagsOf, type ColourSpace } from '@idle-bend/core/colour';
import { parsePixelFormat, type ColourTags, type FrameFormat, type PixelLayout } from '@idle-bend/core/frame';
import { footageOf } from '@idle-bend/core/group';
import type { Clip, FlowLevel, Project, Stretch } from '@idle-bend/core/model';
import { allClips, interpolationOf, placeItems, reelFrames, usesBlur } from '@idle-bend/core/reel';
import { resolveReel, type ResolvedFrame, type ClipFrame } from '@idle-bend/core/resolve';
import { usesFlow, type Sample } from '@idle-bend/core/sampling';
import { ReelCompositor } from '@idle-bend/pipeline';
import { carriesAlpha, formatWith, handedAs, type OutputKind } from './codec.js';
import { Encoder } from './encoder.js';
import type { FlowStore } from '../flow-store.js';
import { FlowThreads } from '../flow-threads.js';
import { loadKernels } from '../kernels.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { ownSpace } from '../decode/pictures.js';
import { ReelFilms } from './reel-films.js';
import type { OpenedSource } from '../probe/source.js';
import type { ClipWork } from './write-clip.js';

export interface ReelWork extends ClipWork {
  /** High dynamic range becomes standard. */
  readonly toneMap?: boolean;
  /** Quality of Flow's in-betweens. */
  readonly level?: FlowLevel;
  /** Where the motion between frames is kept. */
  readonly store?: FlowStore;
  /** Only these frames of the reel. */
  readonly stretch?: Stretch | null;
  /** Bits a sample, and whether transparency is kept; the first clip's without them. */
  readonly depth?: number;
  readonly alpha?: boolean;
  readonly threads?: number;
  /** Source pictures come at their own size, as the bench has proxies, not scaled by the decoder to where they lie. */
  readonly ownSize?: boolean;
  /** The number the first of numbered pictures has. */
  readonly firstNumber?: number;
}

/** The first footage of the reel: the output is in its format. */
function leadOf(project: Project): Pick<ClipFrame, 'clip' | 'source'> {
  for (const { item: clip } of placeItems(project)) {
    const source = clip.kind === 'clip' ? footageOf(project, clip)[0] : undefined;
    if (source) return { clip: clip as Clip, source };
  }
  throw new MediaError('There is no clip on the reel to render.');
}

/** The colour space a reel is written in, and its tags. A reel from before it had one keeps the first clip's, with as many tags as that has. */
function coloursOf(
  { reel }: Project,
  lead: OpenedSource,
  toneMap: boolean,
  layout: PixelLayout,
): { readonly space: ColourSpace; readonly tags: ColourTags } {
  const own = reel.colour ?? ownSpace(lead);
  const space = toneMap && highRangeOf(own) ? BT709 : own;
  const { format } = lead.facts.video!;
  // What is left unsaid has to mean the same at the reel's size.
  const saysIt = sameSpace(spaceOf({ ...format, height: reel.height }), own);
  const asFirst = reel.colour === null && space === own && format.layout.model === layout.model && saysIt;
  return { space, tags: asFirst ? format.colour : tagsOf(spaceIn(space, layout)) };
}

const BLACK: Sample = { kind: 'black' };

/**
 * Renders a project's reel, or a stretch of it, at its size and rate. The first clip's pixel format and colour tags are the
 * output's, at the wanted depth. `open` finds the original behind a source's id; with `toneMap` high dynamic range becomes standard, else it keeps its tags
 * and depth. Transparency is carried by formats that have it and refused in a sentence by those that have not. Nothing is left behind
 * when it fails or is stopped.
 */
export async function writeReel(
  project: Project,
  open: (sourceId: string) => Promise<OpenedSource>,
  file: string,
  kind: OutputKind,
  {
    signal,
    onFrame,
    cacheBytes,
    toneMap = false,
    level = 'default',
    store,
    stretch,
    depth,
    alpha,
    threads,
    ownSize = false,
    firstNumber,
  }: ReelWork = {},
): Promise<void> {
  const first = leadOf(project);
  const [from, to] = [Math.max(0, stretch?.from ?? 0), Math.min(reelFrames(project), stretch?.to ?? Infinity)];
  if (to <= from) throw new MediaError('There is nothing of the reel in that range to render.');
  const lead = await open(first.source.id);
  const leadVideo = lead.facts.video!;
  const base = formatWith(
    leadVideo.pixelFormat,
    depth ?? leadVideo.format.layout.bitDepth,
    (alpha ?? leadVideo.format.layout.alpha) && carriesAlpha(kind.codec),
  );
  // All clips arrive as the encoder takes them.
  const pixelFormat = handedAs(kind.codec, base);
  const layout = parsePixelFormat(pixelFormat)!;
  const { space, tags } = coloursOf(project, lead, toneMap, layout);
  const { width, height, rate } = project.reel;
  const format: FrameFormat = { width, height, layout, colour: tags, pixelAspect: { num: 1, den: 1 } };
  const needsFlow = usesBlur(project) || allClips(project).some((clip) => usesFlow(interpolationOf(project, clip)));
  const flow = needsFlow ? new FlowThreads(availableParallelism(), level, store) : undefined;
  const films = new ReelFilms({ project, open, kind, pixelFormat, space, cacheBytes, flow: flow?.means, ownSize });
  const composer = async (clip: Clip, source: ClipFrame['source']) => (await films.of({ clip, source })).composer;
  const compositor = new ReelCompositor(format, { kernels: loadKernels(), composer });
  const resolve = resolveReel(project);
  let encoder: Encoder | undefined;
  try {
    // Refuses what cannot be opened before a file is begun.
    await films.of(first);
    encoder = await Encoder.open({ file, kind, rate, format, pixelFormat, threads, firstNumber });
    for (const item of placeItems(project)) {
      const frames = resolvedOf(resolve, Math.max(from, item.start), Math.min(to, item.start + item.frames));
      const last = lastUses(frames);
      for (const [i, frame] of frames.entries()) {
        signal?.throwIfAborted();
        await findAhead(frames, i);
        await encoder.write(await compositor.frame(frame));
        onFrame?.(Math.max(from, item.start) + i + 1 - from, to - from);
        // Of a group with many clips inside only those that are still to come stay open.
        if (last.get(frame.clipFrame?.clip) === i)
          films.keepOnly(new Set([...last].flatMap(([clip, end]) => (clip && end > i ? [clip] : []))));
      }
      films.close();
    }
    await encoder.finish();
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    films.close();
    flow?.close();
  }

  /** The motion of the frames to come is found by other threads while one is made. */
  async function findAhead(frames: readonly ResolvedFrame[], i: number): Promise<void> {
    const { clipFrame } = frames[i]!;
    if (!flow || !clipFrame) return;
    const sampleAt = (n: number) =>
      frames[n]?.clipFrame?.clip === clipFrame.clip ? frames[n].clipFrame.sample : BLACK;
    await flow.ahead(await composer(clipFrame.clip, clipFrame.source), sampleAt, i, frames.length);
  }
}

const resolvedOf = (resolve: (frame: number) => ResolvedFrame, from: number, to: number): ResolvedFrame[] =>
  Array.from({ length: Math.max(0, to - from) }, (_, n) => resolve(from + n));

/** The last frame in which each clip is seen. */
const lastUses = (frames: readonly ResolvedFrame[]): ReadonlyMap<Clip | undefined, number> =>
  new Map(frames.flatMap(({ clipFrame, beside }, i) => [clipFrame, beside].map((one) => [one?.clip, i] as const)));
