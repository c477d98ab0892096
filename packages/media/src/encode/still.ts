import { readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { BT709 } from '@idle-bend/core/colour';
import { deepened } from '@idle-bend/core/frame';
import type { Project } from '@idle-bend/core/model';
import type { Sample } from '@idle-bend/core/sampling';
import { FrameComposer } from '@idle-bend/pipeline';
import { Encoder } from './encoder.js';
import { writeReel } from './write-reel.js';
import { makeScratchFolder, releaseScratch } from '../ffmpeg/scratch.js';
import type { FlowStore } from '../flow-store.js';
import { FlowThreads } from '../flow-threads.js';
import { loadKernels } from '../kernels.js';
import { openPictures } from '../decode/pictures.js';
import type { OpenedSource } from '../probe/source.js';

/** One frame made from the original at full size, as PNG, through the pipeline every render uses; high dynamic range tone-mapped. */
export async function writeStill(source: OpenedSource, sample: Sample, store?: FlowStore): Promise<Buffer> {
  const folder = makeScratchFolder(join(tmpdir(), 'idle-bend-still-'));
  const { layout } = source.facts.video!.format;
  const pixelFormat = deepened('gbrp', layout.bitDepth, layout.alpha);
  const reader = openPictures(source, { pixelFormat, space: BT709 });
  try {
    const file = join(folder, '%d.png');
    const encoder = await Encoder.open({
      file,
      kind: { muxer: 'image2', codec: 'png' },
      rate: source.index.grid.rate,
      format: reader.format,
      pixelFormat,
    });
    await encoder.write(
      await new FrameComposer(loadKernels(), reader, new FlowThreads(1, 'default', store).means).compose(sample),
    );
    await encoder.finish();
    return await readFile(join(folder, '0.png'));
  } finally {
    reader.close();
    await rm(folder, { recursive: true, force: true });
    releaseScratch(folder);
  }
}

/**
 * One frame of a reel as its render has it, at the reel's size, as PNG; high dynamic range tone-mapped. `open` finds the original behind a
 * source's id. Throws `MediaError` naming the file.
 */
export async function writeReelStill(
  project: Project,
  frame: number,
  open: (sourceId: string) => Promise<OpenedSource>,
  store?: FlowStore,
): Promise<Buffer> {
  const folder = makeScratchFolder(join(tmpdir(), 'idle-bend-still-'));
  try {
    const stretch = { from: frame, to: frame + 1 };
    const kind = { muxer: 'image2', codec: 'png' } as const;
    await writeReel(project, open, join(folder, '%d.png'), kind, {
      stretch,
      toneMap: true,
      firstNumber: 0,
      ...(store && { store }),
    });
    return await readFile(join(folder, '0.png'));
  } finally {
    await rm(folder, { recursive: true, force: true });
    releaseScratch(folder);
  }
}
