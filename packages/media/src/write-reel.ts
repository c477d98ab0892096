import { availableParallelism } from 'node:os';
import { blackFrame, makingOf, parsePixelFormat, placeItems, sourceOf, usesFlow, type Clip, type FlowLevel, type Project } from '@idle-bend/core';
import { FrameComposer, planClip, type SamplingChoice } from '@idle-bend/pipeline';
import { codecOptions, Encoder, type OutputKind } from './encoder.js';
import type { FlowStore } from './flow-store.js';
import { FlowThreads } from './flow-threads.js';
import { loadKernels } from './kernels.js';
import { MediaError } from './media-error.js';
import { SourceReader } from './source-reader.js';
import type { OpenedSource } from './source.js';
import type { ClipWork } from './write-clip.js';

/** Throws where a clip has transparency and the output's pictures have no place for it. */
function refuseLostAlpha({ facts }: OpenedSource, pixelFormat: string, { codec }: OutputKind): void {
  if (!facts.video!.format.layout.alpha || parsePixelFormat(pixelFormat)?.alpha) return;
  const why =
    codec === 'ffv1'
      ? 'the first clip of the reel has none, and a render has one format; put a clip with transparency first'
      : `${codec} cannot carry it; render lossless (MKV)`;
  throw new MediaError(`${facts.name} has transparency: ${why}.`);
}

const samplingOf = (project: Project, clip: Clip): SamplingChoice => {
  const { frames, skips } = sourceOf(project, clip);
  return { sourceFrames: frames, skips, making: makingOf(project, clip), end: clip.end };
};

export interface ReelWork extends ClipWork {
  /** High dynamic range becomes standard. */
  readonly toneMap?: boolean;
  /** Quality of Flow's in-betweens. */
  readonly level?: FlowLevel;
  /** Where the motion between frames is kept. */
  readonly store?: FlowStore;
}

/**
 * Renders a project's reel at its size and rate. The first clip's pixel format and colour tags are the output's.
 * `open` finds the original behind a source's id; with `toneMap` high dynamic range becomes standard, else it keeps its tags and
 * depth. Transparency is carried by formats that have it and refused in a sentence by those that have not. Nothing is left behind when it fails or is stopped.
 */
export async function writeReel(
  project: Project,
  open: (sourceId: string) => Promise<OpenedSource>,
  file: string,
  kind: OutputKind,
  { signal, onFrame, cacheBytes, toneMap = false, level = 'default', store }: ReelWork = {},
): Promise<void> {
  const items = placeItems(project);
  const total = items.reduce((sum, { frames }) => sum + frames, 0);
  const first = items.find(({ item }) => item.kind === 'clip')?.item;
  if (first?.kind !== 'clip') throw new MediaError('There is no clip on the reel to render.');
  const lead = await open(first.sourceId);
  const leadVideo = lead.facts.video!;
  const { pixelFormat } = codecOptions(kind.codec, leadVideo.pixelFormat);
  // What the encoder would convert to anyway is asked of the decoder, so that all clips arrive in one format.
  const readAs = leadVideo.format.layout.model === 'rgb' && kind.codec !== 'ffv1' ? 'yuv420p' : kind.codec === 'png' ? leadVideo.pixelFormat : pixelFormat;
  const { rate, width, height } = project.reel;
  const kernels = loadKernels();
  const flow = items.some(({ item }) => item.kind === 'clip' && usesFlow(makingOf(project, item)))
    ? new FlowThreads(availableParallelism(), level, store)
    : undefined;
  let encoder: Encoder | undefined;
  let reader: SourceReader | undefined;
  let done = 0;
  try {
    for (const { item, frames } of items) {
      const source = item.kind === 'clip' ? await open(item.sourceId) : lead;
      refuseLostAlpha(source, readAs, kind);
      reader = new SourceReader(source.file, source.facts, source.index, { size: { width, height }, pixelFormat: readAs, cacheBytes, toneMap });
      encoder ??= await Encoder.open({ file, kind, rate, format: reader.format, pixelFormat: readAs });
      const composer = new FrameComposer(kernels, reader, flow?.means);
      const plan = item.kind === 'clip' ? planClip(item.map, samplingOf(project, item)) : undefined;
      const black = blackFrame(reader.format);
      for (let k = 0; k < frames; k++) {
        signal?.throwIfAborted();
        if (plan) await flow?.ahead(composer, plan.sample, k, frames);
        await encoder.write(plan ? await composer.compose(plan.sample(k)) : black);
        onFrame?.(++done, total);
      }
      reader.close();
    }
    await encoder!.finish();
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    reader?.close();
    flow?.close();
  }
}
