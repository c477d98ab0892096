import { stat } from 'node:fs/promises';
import { madeOf, partsOf, type Sample } from '@idle-bend/core/sampling';
import {
  directTimes,
  FlowStore,
  indexSoon,
  MediaError,
  openCached,
  probe,
  proxyPictures,
  writeReelStill,
  writeStill,
  type MediaFile,
  type OpenedSource,
  type Pictures,
  type ProxySize,
} from '@idle-bend/media';
import type { StillAnswer, StillQuestion } from './stills.js';

/** The process that makes single frames of originals: it stays, so that a file that was looked into once answers at once. */
const MAX_OPEN = 20;
const opened = new Map<string, Promise<OpenedSource>>();
let store: FlowStore | undefined;

async function sourceOf({ file, name, own }: MediaFile, isEstimated = false): Promise<OpenedSource> {
  // Where a path comes to lead to another file, that is looked into.
  const { size, mtimeMs } = await stat(file).catch(() => ({ size: 0, mtimeMs: 0 }));
  const key = `${file} ${size} ${mtimeMs} ${isEstimated}`;
  const known = opened.get(key);
  if (known) return known;
  const opening = isEstimated ? openSoon(file, name) : openCached(file, name, { beside: own });
  opening.catch(() => opened.delete(key));
  opened.set(key, opening);
  if (opened.size > MAX_OPEN) opened.delete(opened.keys().next().value!);
  return opening;
}

async function openSoon(file: string, name: string): Promise<OpenedSource> {
  const facts = await probe(file, name);
  return { file, facts, index: await indexSoon(file, facts) };
}

interface Reader {
  readonly source: OpenedSource;
  readonly pictures: Pictures;
  readonly idle: NodeJS.Timeout;
}

/** Pictures of files that are being looked through, the one used last at the end; their decoders wait where they are. */
const readers = new Map<string, Reader>();
const MAX_READERS = 3;
/** A decoder nobody asked for so long is ended. */
const IDLE_MS = 20_000;

function readerOf(file: string, source: OpenedSource, size: ProxySize): Pictures {
  const before = readers.get(file);
  const isSame = before?.source === source && before.pictures.format.height === size.height;
  const known = isSame ? before : undefined;
  if (before && !known) closeReader(file);
  const pictures = known?.pictures ?? proxyPictures(source, size);
  clearTimeout(known?.idle);
  readers.delete(file);
  readers.set(file, { source, pictures, idle: setTimeout(() => closeReader(file), IDLE_MS).unref() });
  if (readers.size > MAX_READERS) closeReader(readers.keys().next().value!);
  return pictures;
}

function closeReader(file: string): void {
  const reader = readers.get(file);
  readers.delete(file);
  clearTimeout(reader?.idle);
  reader?.pictures.close();
}

/** Frames of the source a sample is made of. */
function needed(sample: Sample): (number | undefined)[] {
  return partsOf(sample).flatMap((part) => {
    if (part.kind === 'source') return [part.frame];
    const made = madeOf(part);
    return made ? [made.a, made.b, ...(made.kind === 'flow' ? [made.before, made.after] : [])] : [];
  });
}

async function answer(question: StillQuestion): Promise<StillAnswer> {
  const { id, motion } = question;
  try {
    store ??= new FlowStore(motion.folder, motion.maxBytes);
    if (question.kind === 'reel') {
      const { project, frame, files } = question;
      const open = (sourceId: string) => {
        const media = files[sourceId];
        if (!media) throw new MediaError('The footage of this frame is not in the project any more.');
        return sourceOf(media);
      };
      return { id, png: await writeReelStill(project, frame, open, store) };
    }
    const source = await sourceOf(question, question.kind === 'picture' && question.isEstimated);
    if (question.kind === 'times') {
      const times = directTimes(source);
      return times ? { id, times } : { id, notThere: `The pictures of "${question.name}" are converted to be shown.` };
    }
    const { frames } = source.index.grid;
    const wanted = question.kind === 'picture' ? [question.frame] : needed(question.sample);
    const missing = wanted.find((n) => n !== undefined && n >= frames);
    if (missing !== undefined)
      return { id, notThere: `"${question.name}" has frames 0 to ${frames - 1}, so not frame ${missing}.` };
    if (question.kind === 'sample') return { id, png: await writeStill(source, question.sample, store) };
    const [picture] = await readerOf(question.file, source, question.size).frames([question.frame]);
    return { id, picture: picture! };
  } catch (error) {
    // A decoder that failed is not asked again.
    if (question.kind === 'picture') closeReader(question.file);
    return { id, failed: (error as Error).message, refused: error instanceof MediaError };
  }
}

// One after another: two at once would only share the same cores.
let last: Promise<void> = Promise.resolve();
process.on('message', (question: StillQuestion) => {
  last = last.then(async () => {
    const said = await answer(question);
    if (process.connected) process.send!(said, () => undefined);
  });
});
// Nobody is left to make them for.
process.once('disconnect', () => process.exit(0));
if (!process.connected) process.exit(0);
