import { madeOf, partsOf, type Sample } from '@idle-bend/core/sampling';
import { FlowStore, MediaError, openCached, writeReelStill, writeStill, type OpenedSource } from '@idle-bend/media';
import type { StillAnswer, StillQuestion } from './stills.js';

/** The process that makes single frames of originals: it stays, so that a file that was looked into once answers at once. */
const MAX_OPEN = 20;
const opened = new Map<string, Promise<OpenedSource>>();
let store: FlowStore | undefined;

function sourceOf({ file, name }: { readonly file: string; readonly name: string }): Promise<OpenedSource> {
  const known = opened.get(file);
  if (known) return known;
  const opening = openCached(file, name);
  opening.catch(() => opened.delete(file));
  opened.set(file, opening);
  if (opened.size > MAX_OPEN) opened.delete(opened.keys().next().value!);
  return opening;
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
    const { sample } = question;
    const source = await sourceOf(question);
    const { frames } = source.index.grid;
    const missing = needed(sample).find((n) => n !== undefined && n >= frames);
    if (missing !== undefined)
      return { id, notThere: `"${question.name}" has frames 0 to ${frames - 1}, so not frame ${missing}.` };
    return { id, png: await writeStill(source, sample, store) };
  } catch (error) {
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
