import { availableParallelism } from 'node:os';
import {
  allClips,
  blackFrame,
  BT709,
  highRangeOf,
  sameSpace,
  spaceIn,
  spaceOf,
  tagsOf,
  type ColourSpace,
  type ColourTags,
  effectsOf,
  NO_EFFECTS,
  type Effects,
  footageOf,
  makingOf,
  parsePixelFormat,
  placeItems,
  showing,
  usesBlur,
  usesFlow,
  type Clip,
  type Frame,
  type PixelLayout,
  type FlowLevel,
  type Project,
  type Sample,
  type Shown,
  type Stretch,
} from '@idle-bend/core';
import { FrameEffects } from '@idle-bend/pipeline';
import { loadExposure, loadKernels } from './kernels.js';
import { carriesAlpha, formatWith, handedAs, type OutputKind } from './codec.js';
import { Encoder } from './encoder.js';
import type { FlowStore } from './flow-store.js';
import { FlowThreads } from './flow-threads.js';
import { MediaError } from './media-error.js';
import { ReelFilms } from './reel-films.js';
import { ownSpace } from './pictures.js';
import type { OpenedSource } from './source.js';
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
  /** The number the first of numbered pictures has. */
  readonly firstNumber?: number;
}

/** A frame of the reel that is rendered: what it shows, and what accents do to it. */
interface ReelFrame {
  readonly shown: Shown | undefined;
  readonly effects: Effects;
  /** Where one clip pushes another: what the other one shows, and whether this is the one that goes. */
  readonly beside: Shown | undefined;
  readonly goes: boolean;
}

/** The frames of the reel that are rendered, item by item. */
function framesOf(project: Project, stretch: Stretch): ReelFrame[][] {
  const effectsAt = effectsOf(project);
  const places = placeItems(project);
  const shows = places.map(({ item }) => (item.kind === 'clip' ? showing(project, item) : () => undefined));
  return places.map(({ start, frames }, i) => {
    const [from, to] = [Math.max(0, stretch.from - start), Math.min(frames, stretch.to - start)];
    return Array.from({ length: Math.max(0, to - from) }, (_, n): ReelFrame => {
      const k = from + n;
      const effects = effectsAt(start + k);
      const held = effects.held === undefined ? k : Math.max(0, effects.held - start);
      const goes = effects.push !== undefined && start + k < effects.push.cut;
      const other = effects.push ? places[goes ? i + 1 : i - 1] : undefined;
      const beside = other && shows[goes ? i + 1 : i - 1]!(start + k - other.start);
      return { shown: shows[i]!(held), effects, beside, goes };
    });
  });
}

/** The first footage of the reel: the output is in its format. */
function leadOf(project: Project): Pick<Shown, 'clip' | 'source'> {
  for (const { item: clip } of placeItems(project)) {
    const source = clip.kind === 'clip' ? footageOf(project, clip)[0] : undefined;
    if (source) return { clip: clip as Clip, source };
  }
  throw new MediaError('There is no clip on the reel to render.');
}

/** The colour space a reel is written in, and its tags. A reel from before it had one keeps the first clip's, with as many tags as that has. */
function coloursOf({ reel }: Project, lead: OpenedSource, toneMap: boolean, layout: PixelLayout): { readonly space: ColourSpace; readonly tags: ColourTags } {
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
  { signal, onFrame, cacheBytes, toneMap = false, level = 'default', store, stretch, depth, alpha, threads, firstNumber }: ReelWork = {},
): Promise<void> {
  const first = leadOf(project);
  const items = framesOf(project, stretch ?? { from: 0, to: Infinity });
  const total = items.reduce((sum, { length }) => sum + length, 0);
  if (total === 0) throw new MediaError('There is nothing of the reel in that range to render.');
  const lead = await open(first.source.id);
  const leadVideo = lead.facts.video!;
  const { layout } = leadVideo.format;
  const base = formatWith(leadVideo.pixelFormat, depth ?? layout.bitDepth, (alpha ?? layout.alpha) && carriesAlpha(kind.codec));
  // All clips arrive as the encoder takes them.
  const readAs = handedAs(kind.codec, base);
  const { space, tags } = coloursOf(project, lead, toneMap, parsePixelFormat(readAs)!);
  const needsFlow = usesBlur(project) || allClips(project).some((clip) => usesFlow(makingOf(project, clip)));
  const flow = needsFlow ? new FlowThreads(availableParallelism(), level, store) : undefined;
  const films = new ReelFilms({ project, open, kind, pixelFormat: readAs, space, tags, cacheBytes, flow: flow?.means });
  let encoder: Encoder | undefined;
  let done = 0;
  try {
    const { format } = (await films.of(first)).reader;
    encoder = await Encoder.open({ file, kind, rate: project.reel.rate, format, pixelFormat: readAs, threads, firstNumber });
    const black = blackFrame(format);
    const accents = new FrameEffects(loadKernels(), loadExposure());
    for (const frames of items) {
      const last = new Map(frames.flatMap(({ shown, beside }, i) => [shown, beside].map((s) => [s?.clip, i] as const)));
      for (let i = 0; i < frames.length; i++) {
        signal?.throwIfAborted();
        await encoder.write(await made(frames, i));
        onFrame?.(++done, total);
        // Of a group with many clips inside only those that are still to come stay open.
        if (last.get(frames[i]!.shown?.clip) === i) films.keepOnly(new Set([...last].flatMap(([clip, end]) => (clip && end > i ? [clip] : []))));
      }
      films.close();
    }
    await encoder.finish();

    async function made(frames: readonly ReelFrame[], i: number): Promise<Frame> {
      const { effects, beside, goes } = frames[i]!;
      const frame = await composed(frames, i);
      if (effects === NO_EFFECTS) return frame;
      // What is composed next may use the same buffers.
      const kept = beside ? { format: frame.format, data: frame.data.slice() } : frame;
      const other = beside && steadied(await (await films.of(beside)).composer.compose(beside.sample), beside);
      return accents.apply(kept, effects, goes, other);
    }

    async function composed(frames: readonly ReelFrame[], i: number): Promise<Frame> {
      const { shown } = frames[i]!;
      if (!shown) return black;
      const { composer } = await films.of(shown);
      const coming = (n: number) => frames[n]?.shown;
      await flow?.ahead(composer, (n) => (coming(n)?.clip === shown.clip ? coming(n)!.sample : BLACK), i, frames.length);
      return steadied(await composer.compose(shown.sample), shown);
    }

    function steadied(frame: Frame, { laid }: Shown): Frame {
      return laid ? accents.laid(frame, laid) : frame;
    }
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    films.close();
    flow?.close();
  }
}
