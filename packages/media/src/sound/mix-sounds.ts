import { rename, rm } from 'node:fs/promises';
import type { Project, Sound, Stretch } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { SOUND_RATE } from '@idle-bend/core/sound';
import { frameToSeconds } from '@idle-bend/core/time';
import { writeClipSounds, type MediaFiles } from './clip-sounds.js';
import { collect, lastComplaint, safeInput } from '../ffmpeg/ffmpeg.js';
import type { OutputKind } from '../encode/codec.js';
import { DEFAULT_TIMES } from '../encode/encoder.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { probe } from '../probe/probe.js';
import { holdScratch, releaseScratch } from '../ffmpeg/scratch.js';
import { inTwoChannels, timeZero } from './sound-clock.js';

/** What the reel's sounds are mixed at. */
const MIX_RATE = SOUND_RATE;

const CODECS: Readonly<Record<string, readonly string[]>> = {
  mp4: ['-c:a', 'aac', '-b:a', '256k'],
  mov: ['-c:a', 'pcm_s24le'],
  webm: ['-c:a', 'libopus', '-b:a', '192k'],
  matroska: ['-c:a', 'flac'],
  wav: ['-c:a', 'pcm_s24le'],
};

/** The part of a sound that is heard on the reel, and at which sample of it; none when it lies outside. */
function heard(
  { startSeconds: start, fromSeconds: from, toSeconds: to }: Sound,
  seconds: number,
): { readonly from: number; readonly to: number; readonly delay: number } | undefined {
  const begin = from + Math.max(0, -start);
  const end = Math.min(to, from + (seconds - start));
  return end > begin ? { from: begin, to: end, delay: Math.round(Math.max(0, start) * MIX_RATE) } : undefined;
}

/** One sound's way through ffmpeg: its part, its fades as lines (see `loudnessAt`), its place on the reel. `zero`: see `timeZero`. */
function filterOf(sound: Sound, index: number, seconds: number, zero: number | undefined): string | undefined {
  const part = heard(sound, seconds);
  if (!part) return undefined;
  const whole = sound.toSeconds - sound.fromSeconds;
  const steps = [
    ...inTwoChannels(zero),
    `atrim=start=${sound.fromSeconds}:end=${sound.toSeconds}`,
    'asetpts=PTS-STARTPTS',
    ...(sound.gainDb === 0 ? [] : [`volume=${sound.gainDb}dB`]),
    ...(sound.fadeInSeconds > 0 ? [`afade=t=in:d=${sound.fadeInSeconds}:curve=tri`] : []),
    ...(sound.fadeOutSeconds > 0
      ? [`afade=t=out:st=${whole - sound.fadeOutSeconds}:d=${sound.fadeOutSeconds}:curve=tri`]
      : []),
    // What comes before the reel begins is faded with the rest, and then left out.
    ...(part.from > sound.fromSeconds ? [`atrim=start=${part.from - sound.fromSeconds}`, 'asetpts=PTS-STARTPTS'] : []),
    ...(part.delay > 0 ? [`adelay=${part.delay}S:all=1`] : []),
  ];
  return `[${index}:a:0]${steps.join(',')}[s${index}]`;
}

/** Above this rate peaks between samples are seen well enough (ITU-R BS.1770-4, annex 2, asks for four times 48 kHz). */
const PEAK_RATE = 4 * MIX_RATE;

/** Holds the whole down to a true peak, dBTP. */
const held = (ceiling: number) =>
  `aresample=${PEAK_RATE},alimiter=limit=${10 ** (ceiling / 20)}:level=0:latency=1,aresample=${MIX_RATE}`;

/** What ffmpeg is told to make a reel's sound: inputs, filters that end in `[sound]`, and how long it is. */
export interface SoundMix {
  readonly inputs: readonly string[];
  readonly filters: string;
  readonly seconds: number;
}

export interface MixChoice {
  readonly signal?: AbortSignal | undefined;
  readonly stretch?: Stretch | null | undefined;
}

/**
 * What is heard of the reel, or of a `stretch` of it: the clips' own sounds and those beside them, summed in floating point, exactly as
 * long as the picture. `files` has the media behind each source and each sound's `footageId`. The clips' own are written to `scratch`,
 * which is the caller's to remove. None where nothing is heard. `inputsBefore` is how many inputs ffmpeg is given first.
 */
export async function soundMix(
  project: Project,
  files: MediaFiles,
  scratch: string,
  inputsBefore: number,
  { signal, stretch = null }: MixChoice = {},
): Promise<SoundMix | undefined> {
  const end = Math.min(stretch?.to ?? Infinity, reelFrames(project));
  const seconds = frameToSeconds(end, project.reel.rate);
  const first = Math.round(frameToSeconds(stretch?.from ?? 0, project.reel.rate) * MIX_RATE);
  const sounds = project.reel.sounds.filter((sound) => heard(sound, seconds));
  const own = await writeClipSounds(project, files, scratch, stretch, signal);
  if (!own && sounds.length === 0) return undefined;
  const media = sounds.map(({ footageId, name }) => {
    const found = files[footageId];
    if (!found) throw new MediaError(`The footage behind the sound "${name}" is not in this project any more.`);
    return found;
  });
  const inputs = media.flatMap(({ file }) => safeInput(file));
  const zeros = await Promise.all(media.map(async ({ file, name }) => timeZero(file, await probe(file, name), signal)));
  const filters = sounds.map((sound, i) => filterOf(sound, inputsBefore + i, seconds, zeros[i])!);
  const names = sounds.map((_, i) => `[s${inputsBefore + i}]`);
  if (own) {
    inputs.push('-f', 'f32le', '-ar', String(MIX_RATE), '-ac', '2', '-i', `file:${scratch}`);
    filters.push(`[${inputsBefore + sounds.length}:a:0]adelay=${first}S:all=1[own]`);
    names.push('[own]');
  }
  const samples = Math.round(seconds * MIX_RATE);
  const { ceiling } = project.reel;
  const mix = [
    `${names.join('')}amix=inputs=${names.length}:normalize=0:duration=longest`,
    `apad=whole_len=${samples}`,
    `atrim=start_sample=${first}:end_sample=${samples}`,
    'asetpts=PTS-STARTPTS',
    ...(ceiling === null ? [] : [held(ceiling), `atrim=end_sample=${samples - first}`]),
  ].join(',');
  return { inputs, filters: [...filters, `${mix}[sound]`].join(';'), seconds };
}

/**
 * Opus begins 312 samples before its sound, and a reader of Matroska takes so much off the time of every block (RFC 9559, CodecDelay).
 * ffmpeg has taken it off already when it writes the block, so that much is put on before.
 */
export const soundGraph = ({ filters }: SoundMix, muxer: string): string =>
  muxer === 'webm' ? filters.replace(/\[sound\]$/, ',asetpts=PTS+312[sound]') : filters;

/** How a container's sound is coded; none: it has no sound. */
export const soundCodec = (muxer: string): readonly string[] | undefined => CODECS[muxer];

/**
 * Lays what is heard of the reel under a finished picture (see `soundMix`). The picture is copied as it is; the file is replaced when all
 * is done. False, and nothing happens, where nothing is heard, or the container has no sound (numbered pictures). Throws `MediaError`.
 */
export async function mixSounds(
  project: Project,
  files: MediaFiles,
  video: string,
  { muxer }: OutputKind,
  choice: MixChoice = {},
): Promise<boolean> {
  const codec = soundCodec(muxer);
  if (!codec) return false;
  const [part, clips] = [holdScratch(`${video}.sound`), holdScratch(`${video}.clips`)];
  try {
    const mix = await soundMix(project, files, clips, 1, choice);
    if (!mix) return false;
    const args = [
      '-v',
      'error',
      '-nostdin',
      '-y',
      ...safeInput(video),
      ...mix.inputs,
      '-filter_complex',
      soundGraph(mix, muxer),
      '-map',
      '0:v',
      '-map',
      '[sound]',
      '-c:v',
      'copy',
      ...codec,
      ...(muxer === 'mp4' || muxer === 'mov' ? ['-movflags', '+faststart'] : []),
      ...DEFAULT_TIMES,
      '-f',
      muxer,
      `file:${part}`,
    ];
    const explain = (complaint: string) =>
      `The sounds could not be laid under the picture: ${lastComplaint(complaint)}.`;
    await collect('ffmpeg', args, {
      seconds: 600 + 10 * mix.seconds,
      explain,
      ...(choice.signal && { signal: choice.signal }),
    });
    await rename(part, video);
    return true;
  } finally {
    for (const path of [part, clips]) {
      await rm(path, { force: true });
      releaseScratch(path);
    }
  }
}
