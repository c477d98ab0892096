import { availableParallelism } from 'node:os';
import { madeOf, partsOf } from '@idle-bend/core/sampling';
import type { Rate } from '@idle-bend/core/time';
import { confidence, noErrorTerms, type Level } from '@idle-bend/kernels';
import { FrameComposer, type ClipPlan } from '@idle-bend/pipeline';
import { handedAs, type OutputKind } from './codec.js';
import { Encoder } from './encoder.js';
import { FlowThreads } from '../flow-threads.js';
import { loadKernels } from '../kernels.js';
import { openPictures } from '../decode/pictures.js';
import type { OpenedSource } from '../probe/source.js';

export interface ClipOutput {
  readonly file: string;
  readonly kind: OutputKind;
  readonly rate: Rate;
  readonly size?: { readonly width: number; readonly height: number };
  readonly threads?: number;
  /** Quality of Flow's in-betweens. */
  readonly level?: Level;
}

export interface ClipWork {
  readonly signal?: AbortSignal;
  /** Told after every frame. */
  readonly onFrame?: (done: number, total: number) => void;
  readonly cacheBytes?: number;
  /** Told of every frame Flow makes how sure it is to look right, 0…1. */
  readonly onConfidence?: (frame: number, confidence: number) => void;
}

/** Renders a planned clip of a source to a file: full-size decode → pipeline → encode. Leaves nothing behind when it fails or is stopped. */
export async function writeClip(
  source: OpenedSource,
  plan: ClipPlan,
  output: ClipOutput,
  { signal, onFrame, cacheBytes, onConfidence }: ClipWork = {},
): Promise<void> {
  // Every frame is planned before anything is started, so a map that asks for what is not there fails at once.
  const samples = Array.from({ length: plan.frameCount }, (_, k) => plan.sample(k));
  const pixelFormat = handedAs(output.kind.codec, source.facts.video!.pixelFormat);
  const reader = openPictures(source, { size: output.size, threads: output.threads, cacheBytes, pixelFormat });
  const flow = samples.some((sample) => partsOf(sample).some(({ kind }) => kind === 'flow'))
    ? new FlowThreads(output.threads ?? availableParallelism(), output.level ?? 'default')
    : undefined;
  let encoder: Encoder | undefined;
  try {
    encoder = await Encoder.open({
      file: output.file,
      kind: output.kind,
      rate: output.rate,
      format: reader.format,
      pixelFormat,
      threads: output.threads,
    });
    const composer = new FrameComposer(loadKernels(), reader, flow?.means);
    for (let k = 0; k < plan.frameCount; k++) {
      signal?.throwIfAborted();
      await flow?.ahead(composer, (n) => samples[n]!, k, samples.length);
      const evidence = onConfidence && madeOf(samples[k]!)?.kind === 'flow' ? noErrorTerms() : undefined;
      await encoder.write(await composer.compose(samples[k]!, undefined, evidence));
      if (evidence) onConfidence!(k, confidence(evidence));
      onFrame?.(k + 1, plan.frameCount);
    }
    signal?.throwIfAborted();
    await encoder.finish();
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    reader.close();
    flow?.close();
  }
}
