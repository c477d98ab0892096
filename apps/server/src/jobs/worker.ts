import { rename, writeFile } from 'node:fs/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { analyseBeats, ANY_TEMPO, parseProject, peaksOf, writeMotion, type HeardSound } from '@idle-bend/core';
import {
  BEATS_RATE,
  filmstrip,
  followPatch,
  FlowStore,
  lookAtMotion,
  measureLoudness,
  mixSounds,
  motionReader,
  openSource,
  outputKind,
  probe,
  readMono,
  writeFields,
  writeProxy,
  writeReel,
  writeSequence,
  writeSoundProxy,
  type OpenedSource,
} from '@idle-bend/media';
import type { Job, JobMessage } from './job.js';

/** The thread a long job runs in; the server itself stays free to answer. */
const job = workerData as Job;
const port = parentPort!;
const stop = new AbortController();
port.on('message', () => stop.abort(new Error('cancelled')));
const say = (message: JobMessage) => port.postMessage(message);

let lastTold = 0;
const progress = (done: number, total: number) => {
  const now = Date.now();
  if (now - lastTold < 100 && done < total) return;
  lastTold = now;
  say({ kind: 'progress', done, total });
};

try {
  if (job.kind === 'proxy') {
    const source = await openSource(job.original, job.name, stop.signal);
    const health = await writeProxy(source, job.proxy, progress, stop.signal);
    await writeFile(job.strip, await filmstrip(job.proxy, job.name, source.index.grid.frames, stop.signal));
    say({ kind: 'health', health });
  } else if (job.kind === 'motion') {
    const proxy = await openSource(job.proxy, job.name, stop.signal);
    const reader = motionReader(proxy);
    try {
      const motion = await lookAtMotion(reader, job.repeats, progress, stop.signal);
      await writeFile(`${job.file}.part`, JSON.stringify(writeMotion(motion)));
      await rename(`${job.file}.part`, job.file);
    } finally {
      reader.close();
    }
  } else if (job.kind === 'track') {
    const proxy = await openSource(job.proxy, job.name, stop.signal);
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
  } else {
    const opened = new Map<string, Promise<OpenedSource>>();
    const open = (id: string) => {
      const media = job.originals[id];
      if (!media) throw new Error(`the footage behind source ${id} is not in this project any more`);
      if (!opened.has(id)) opened.set(id, openSource(media.file, media.name));
      return opened.get(id)!;
    };
    const project = parseProject(JSON.parse(job.document));
    // A document that was kept for the whole reel has no range.
    const stretch = project.reel.range;
    await writeReel(project, open, job.file, outputKind(job.file), {
      signal: stop.signal,
      onFrame: progress,
      toneMap: job.toneMap,
      level: job.level,
      store: new FlowStore(job.motion.folder, job.motion.mostBytes),
      stretch,
    });
    const mixed = await mixSounds(project, job.originals, job.file, outputKind(job.file), { signal: stop.signal, stretch });
    const loudness = mixed ? await measureLoudness(job.file, stop.signal) : undefined;
    if (loudness) say({ kind: 'loudness', loudness });
  }
  say({ kind: 'done' });
} catch (error) {
  say({ kind: 'failed', message: (error as Error).message });
}
port.close();
