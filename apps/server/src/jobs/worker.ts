import { rename, writeFile } from 'node:fs/promises';
import { analyseBeats, ANY_TEMPO, atQuality, parseProject, peaksOf, writeMotion, type HeardSound } from '@idle-bend/core';
import {
  BEATS_RATE,
  filmstrip,
  followPatch,
  FlowStore,
  lookAtMotion,
  MediaError,
  joinRender,
  runChunk,
  motionReader,
  openKnown,
  probe,
  readMono,
  writeFields,
  writeProxy,
  writeSequence,
  writeSoundProxy,
} from '@idle-bend/media';
import { inspectFile } from './inspect-file.js';
import type { Job, JobMessage, JobOrder } from './job.js';

/** The process a long job runs in; the server itself stays free to answer. */
// Nobody is left to do it for.
process.once('disconnect', () => process.exit(1));
if (!process.connected) process.exit(1);
const stop = new AbortController();
/** A server that is gone hears nothing; this process then ends. */
const say = (message: JobMessage) => void (process.connected && process.send!(message, () => undefined));
/** Whatever is still open then (a decoder that was not read to its end) ends with this process. */
const last = (message: JobMessage) => void (process.connected ? process.send!(message, () => process.exit(0)) : process.exit(0));
const job = await new Promise<Job>((begin) => {
  process.on('message', (order: JobOrder) => {
    if (order.kind === 'begin') begin(order.job);
    else stop.abort(new Error('cancelled'));
  });
});
let lastTold = 0;
const progress = (done: number, total: number) => {
  const now = Date.now();
  if (now - lastTold < 100 && done < total) return;
  lastTold = now;
  say({ kind: 'progress', done, total });
};

try {
  if (job.kind === 'inspect') {
    say({ kind: 'inspected', inspected: await inspectFile(job.file, job.name) });
  } else if (job.kind === 'proxy') {
    const source = await openKnown(job.original, job.name, stop.signal);
    const health = await writeProxy(source, job.proxy, progress, stop.signal);
    await writeFile(job.strip, await filmstrip(job.proxy, job.name, source.index.grid.frames, stop.signal));
    say({ kind: 'health', health });
  } else if (job.kind === 'motion') {
    const proxy = await openKnown(job.proxy, job.name, stop.signal);
    const reader = motionReader(proxy);
    try {
      const motion = await lookAtMotion(reader, job.repeats, progress, stop.signal);
      await writeFile(`${job.file}.part`, JSON.stringify(writeMotion(motion)));
      await rename(`${job.file}.part`, job.file);
    } finally {
      reader.close();
    }
  } else if (job.kind === 'track') {
    const proxy = await openKnown(job.proxy, job.name, stop.signal);
    const reader = motionReader(proxy);
    try {
      say({ kind: 'places', places: await followPatch(reader, job.from, job.to, job.patch, stop.signal) });
    } finally {
      reader.close();
    }
  } else if (job.kind === 'listen') {
    const facts = await probe(job.original, job.name);
    await writeSoundProxy(job.original, facts, job.sound, stop.signal);
    const samples = await readMono(job.original, facts, BEATS_RATE, stop.signal);
    await writeFile(job.peaks, peaksOf(samples, BEATS_RATE));
    const found = analyseBeats(samples, BEATS_RATE, ANY_TEMPO, (share) => {
      stop.signal.throwIfAborted();
      progress(Math.round(100 * share), 100);
    });
    const heard: HeardSound = { ...found, seconds: samples.length / BEATS_RATE };
    await writeFile(`${job.heard}.part`, JSON.stringify(heard));
    await rename(`${job.heard}.part`, job.heard);
  } else if (job.kind === 'fields') {
    await writeFields(job.original, await probe(job.original, job.name), job.file, stop.signal);
  } else if (job.kind === 'sequence') {
    await writeSequence(job.folder, job.pictures, job.rate, job.file, job.name, stop.signal);
  } else if (job.kind === 'chunk') {
    const store = new FlowStore(job.motion.folder, job.motion.mostBytes);
    await runChunk(job.chunk, job.files, job.folder, { signal: stop.signal, onFrame: progress, store });
  } else {
    const project = atQuality(parseProject(JSON.parse(job.document)), job.quality);
    const loudness = await joinRender(project, job.files, job.folder, job.join, stop.signal);
    if (loudness) say({ kind: 'loudness', loudness });
  }
  last({ kind: 'done' });
} catch (error) {
  last({ kind: 'failed', message: (error as Error).message, refused: error instanceof MediaError });
}
