import { availableParallelism } from 'node:os';
import {
  allClips,
  blackFrame,
  footageOf,
  makingOf,
  placeItems,
  showing,
  usesBlur,
  usesFlow,
  type Clip,
  type Frame,
  type FlowLevel,
  type PlacedItem,
  type Project,
  type Sample,
  type Shown,
  type Stretch,
} from '@idle-bend/core';
import { codecOptions, Encoder, type OutputKind } from './encoder.js';
import type { FlowStore } from './flow-store.js';
import { FlowThreads } from './flow-threads.js';
import { MediaError } from './media-error.js';
import { ReelFilms } from './reel-films.js';
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
}

/** What each frame of the reel that is rendered shows, item by item. */
function framesOf(project: Project, stretch: Stretch): (Shown | undefined)[][] {
  const shown = ({ item, start, frames }: PlacedItem) => {
    const show = item.kind === 'clip' ? showing(project, item) : () => undefined;
    const [from, to] = [Math.max(0, stretch.from - start), Math.min(frames, stretch.to - start)];
    return Array.from({ length: Math.max(0, to - from) }, (_, i) => show(from + i));
  };
  return placeItems(project).map(shown);
}

/** The first footage of the reel: the output is in its format. */
function leadOf(project: Project): Pick<Shown, 'clip' | 'source'> {
  for (const { item: clip } of placeItems(project)) {
    const source = clip.kind === 'clip' ? footageOf(project, clip)[0] : undefined;
    if (source) return { clip: clip as Clip, source };
  }
  throw new MediaError('There is no clip on the reel to render.');
}

const BLACK: Sample = { kind: 'black' };

/**
 * Renders a project's reel, or a stretch of it, at its size and rate. The first clip's pixel format and colour tags are the
 * output's. `open` finds the original behind a source's id; with `toneMap` high dynamic range becomes standard, else it keeps its tags
 * and depth. Transparency is carried by formats that have it and refused in a sentence by those that have not. Nothing is left behind
 * when it fails or is stopped.
 */
export async function writeReel(
  project: Project,
  open: (sourceId: string) => Promise<OpenedSource>,
  file: string,
  kind: OutputKind,
  { signal, onFrame, cacheBytes, toneMap = false, level = 'default', store, stretch }: ReelWork = {},
): Promise<void> {
  const first = leadOf(project);
  const items = framesOf(project, stretch ?? { from: 0, to: Infinity });
  const total = items.reduce((sum, { length }) => sum + length, 0);
  if (total === 0) throw new MediaError('There is nothing of the reel in that range to render.');
  const leadVideo = (await open(first.source.id)).facts.video!;
  const { pixelFormat } = codecOptions(kind.codec, leadVideo.pixelFormat);
  // What the encoder would convert to anyway is asked of the decoder, so that all clips arrive in one format.
  const readAs = leadVideo.format.layout.model === 'rgb' && kind.codec !== 'ffv1' ? 'yuv420p' : kind.codec === 'png' ? leadVideo.pixelFormat : pixelFormat;
  const needsFlow = usesBlur(project) || allClips(project).some((clip) => usesFlow(makingOf(project, clip)));
  const flow = needsFlow ? new FlowThreads(availableParallelism(), level, store) : undefined;
  const films = new ReelFilms({ project, open, kind, pixelFormat: readAs, cacheBytes, toneMap, flow: flow?.means });
  let encoder: Encoder | undefined;
  let done = 0;
  try {
    const { format } = (await films.of(first)).reader;
    encoder = await Encoder.open({ file, kind, rate: project.reel.rate, format, pixelFormat: readAs });
    const black = blackFrame(format);
    for (const frames of items) {
      const last = new Map(frames.map((shown, i) => [shown?.clip, i]));
      for (let i = 0; i < frames.length; i++) {
        signal?.throwIfAborted();
        await encoder.write(await made(frames, i));
        onFrame?.(++done, total);
        // Of a group with many clips inside only those that are still to come stay open.
        if (last.get(frames[i]?.clip) === i) films.keepOnly(new Set([...last].flatMap(([clip, end]) => (clip && end > i ? [clip] : []))));
      }
      films.close();
    }
    await encoder.finish();

    async function made(frames: readonly (Shown | undefined)[], i: number): Promise<Frame> {
      const shown = frames[i];
      if (!shown) return black;
      const { composer } = await films.of(shown);
      await flow?.ahead(composer, (n) => (frames[n]?.clip === shown.clip ? frames[n].sample : BLACK), i, frames.length);
      return composer.compose(shown.sample);
    }
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    films.close();
    flow?.close();
  }
}
