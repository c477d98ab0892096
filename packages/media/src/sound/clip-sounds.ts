import { open, rm, type FileHandle } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Project, Source, Stretch } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { SOUND_RATE } from '@idle-bend/core/sound';
import { framesPerSecond } from '@idle-bend/core/time';
import { ReelSound, silence, type SoundProvider, type Stereo } from '@idle-bend/pipeline';
import { collect, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError, missingFile } from '../ffmpeg/media-error.js';
import { probe, type MediaFacts } from '../probe/probe.js';
import { makeScratchFolder, releaseScratch } from '../ffmpeg/scratch.js';
import { inTwoChannels, timeZero } from './sound-clock.js';

/** The media behind sources and sounds, by id. */
export type MediaFiles = Readonly<Record<string, MediaFile>>;

/** A file behind footage, and its name for people. */
export interface MediaFile {
  readonly file: string;
  readonly name: string;
  /** Where it would lie in the footage's own folder, when it lies elsewhere: what was found in it is kept beside that. */
  readonly own?: string;
}

/** Bytes of a sample of both channels. */
const FRAME = 8;
/** Samples written at a time. */
const CHUNK = 16 * 4096;

/**
 * Writes what is heard of the clips themselves (see `ReelSound`), of a stretch of the reel, as raw 32-bit floats, two channels at
 * `SOUND_RATE`. False, and no file, where nothing is heard. Throws `MediaError` naming the file whose sound cannot be decoded.
 */
export async function writeClipSounds(
  project: Project,
  files: MediaFiles,
  out: string,
  stretch: Stretch | null,
  signal?: AbortSignal,
): Promise<boolean> {
  const folder = makeScratchFolder(join(dirname(out), '.clip-sounds-'));
  const decoded = new DecodedSounds(files, folder, signal);
  try {
    const sound = new ReelSound(project, (source) => decoded.open(source));
    if (await sound.isSilent()) return false;
    const sample = (frame: number) => Math.round((frame / framesPerSecond(project.reel.rate)) * SOUND_RATE);
    const [from, to] = [sample(stretch?.from ?? 0), sample(Math.min(stretch?.to ?? Infinity, reelFrames(project)))];
    const file = await open(out, 'w');
    try {
      for (let at = from; at < to; at += CHUNK) {
        signal?.throwIfAborted();
        await file.write(interleaved(await sound.read(at, Math.min(CHUNK, to - at))));
      }
    } finally {
      await file.close();
    }
    return true;
  } finally {
    await decoded.close();
    await rm(folder, { recursive: true, force: true });
    releaseScratch(folder);
  }
}

function interleaved([left, right]: Stereo): Buffer {
  const both = new Float32Array(2 * left.length);
  for (let i = 0; i < left.length; i++) [both[2 * i], both[2 * i + 1]] = [left[i]!, right[i]!];
  return Buffer.from(both.buffer);
}

/** The sounds of sources, decoded once each to a file of their own, of which windows are read. */
class DecodedSounds {
  private readonly opened = new Map<string, Promise<SoundProvider | undefined>>();
  private readonly handles: FileHandle[] = [];

  constructor(
    private readonly files: MediaFiles,
    private readonly folder: string,
    private readonly signal: AbortSignal | undefined,
  ) {}

  open({ id, name }: Source): Promise<SoundProvider | undefined> {
    let provider = this.opened.get(id);
    if (!provider) this.opened.set(id, (provider = this.decode(id, name)));
    return provider;
  }

  async close(): Promise<void> {
    await Promise.all([...this.opened.values()].map((opening) => opening.catch(() => undefined)));
    await Promise.all(this.handles.map((handle) => handle.close()));
  }

  private async decode(id: string, name: string): Promise<SoundProvider | undefined> {
    const media = this.files[id];
    if (!media) throw new MediaError(`The footage behind "${name}" is not in this project any more.`);
    const facts = await probe(media.file, media.name);
    if (!facts.sound) return undefined;
    const raw = join(this.folder, `${this.handles.length}-${id}.f32`);
    await decodeStereo(media.file, facts, raw, this.signal);
    const handle = await open(raw, 'r');
    this.handles.push(handle);
    return { read: (from, count) => readWindow(handle, from, count) };
  }
}

async function decodeStereo(
  file: string,
  facts: MediaFacts,
  out: string,
  signal: AbortSignal | undefined,
): Promise<void> {
  const explain = () =>
    missingFile(file, facts.name) ?? `${facts.name}: its sound cannot be decoded; it may be damaged.`;
  const filters = inTwoChannels(await timeZero(file, facts, signal));
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-y',
    ...safeInput(file),
    '-map',
    `0:${facts.sound!.stream}`,
    '-af',
    filters.join(','),
    '-f',
    'f32le',
    `file:${out}`,
  ];
  await collect('ffmpeg', args, { seconds: 3600, explain, ...(signal && { signal }) });
}

async function readWindow(handle: FileHandle, from: number, count: number): Promise<Stereo> {
  const [left, right] = silence(count);
  const first = Math.max(0, from);
  const wanted = Math.max(0, from + count - first);
  const bytes = Buffer.alloc(wanted * FRAME);
  const { bytesRead } = wanted > 0 ? await handle.read(bytes, 0, bytes.length, first * FRAME) : { bytesRead: 0 };
  const values = new Float32Array(bytes.buffer, bytes.byteOffset, Math.floor(bytesRead / FRAME) * 2);
  for (let i = 0; i < values.length / 2; i++) {
    left[first - from + i] = values[2 * i]!;
    right[first - from + i] = values[2 * i + 1]!;
  }
  return [left, right];
}
