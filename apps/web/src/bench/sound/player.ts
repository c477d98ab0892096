import type { Project, Sound } from '@idle-bend/core/model';
import { loudnessAt } from '@idle-bend/core/reel';
import { SOUND_RATE } from '@idle-bend/core/sound';
import { giveSound, hasSound, readClips, tellReel } from './clip-track.ts';

/** What is needed to play a sound: it, and the address of its file. */
export interface PlayedSound {
  readonly sound: Sound;
  readonly url: string;
}

/** The sounds of the reel through the loudspeakers, and the clock the picture follows while they play. */
let context: AudioContext | undefined;
const decoded = new Map<string, Promise<AudioBuffer>>();
interface Playing {
  readonly nodes: AudioBufferSourceNode[];
  readonly out: GainNode;
  readonly levels: readonly AnalyserNode[];
  readonly second: () => number;
  readonly beginning: Beginning;
  over: boolean;
}
let playing: Playing | undefined;
/** Counts beginnings and ends: what was still being got ready for an earlier one is not played. */
let turns = 0;

function contextNow(): AudioContext {
  // Whatever the device runs at, sounds are decoded at the rate the clips' sound is made at.
  context ??= new AudioContext({ latencyHint: 'interactive', sampleRate: SOUND_RATE });
  return context;
}

/** Decodes a file once; before its sound is wanted, so that it is there when it is. */
export function prepareSound(url: string): Promise<AudioBuffer> {
  let buffer = decoded.get(url);
  if (!buffer) {
    buffer = fetch(url)
      .then((response) =>
        response.ok ? response.arrayBuffer() : Promise.reject(new Error(`the sound is not there (${response.status})`)),
      )
      .then((bytes) => contextNow().decodeAudioData(bytes));
    buffer.catch(() => decoded.delete(url));
    decoded.set(url, buffer);
  }
  return buffer;
}

/** Seconds since `playSounds`, as they are heard: the device's own clock. */
export interface SoundClock {
  now(): number;
}

/**
 * Plays from a second of the reel on at a pace (1: as recorded; other paces change the pitch). Answers the clock to follow, or
 * `undefined` where there is nothing to hear or the device does not run: then the computer's own clock will do.
 */
export async function playSounds(
  sounds: readonly PlayedSound[],
  clips: PlayedClips,
  fromSecond: number,
  pace: number,
): Promise<SoundClock | undefined> {
  stopSounds();
  const turn = turns;
  if (sounds.length === 0 && clips.sources.length === 0 && !clips.whooshes) return undefined;
  const audio = contextNow();
  if (audio.state !== 'running')
    await Promise.race([audio.resume(), new Promise((resolve) => setTimeout(resolve, 300))]);
  if (audio.state !== 'running') return undefined;
  const buffers = await Promise.all(sounds.map(({ url }) => prepareSound(url).catch(() => undefined)));
  await prepareClips(clips);
  const own = await firstOfClips(clips, fromSecond);
  if (turn !== turns) return undefined;
  const out = audio.createGain();
  out.connect(audio.destination);
  const levels = metered(audio, out);
  // A moment ahead, so that all begin together.
  const begin = audio.currentTime + 0.03;
  const nodes = sounds.flatMap(({ sound }, i) => {
    const buffer = buffers[i];
    const node = buffer && scheduled(audio, sound, buffer, { begin, fromSecond, pace });
    if (!node) return [];
    node.gain.connect(out);
    return [node.source];
  });
  const late = audio.outputLatency || audio.baseLatency || 0;
  const now = () => Math.max(0, audio.currentTime - late - begin);
  const beginning = { begin, fromSecond, pace };
  playing = { nodes, out, levels, second: () => fromSecond + now() * pace, beginning, over: false };
  alsoPlays?.(clips.project);
  if (own) void playClips(audio, playing, own, beginning);
  return { now };
}

interface Beginning {
  /** When, on the device's clock, and from which second of the reel. */
  readonly begin: number;
  readonly fromSecond: number;
  readonly pace: number;
}

function scheduled(audio: AudioContext, sound: Sound, buffer: AudioBuffer, { begin, fromSecond, pace }: Beginning) {
  const end = sound.startSeconds + (sound.toSeconds - sound.fromSeconds);
  if (end <= fromSecond) return undefined;
  const first = Math.max(sound.startSeconds, fromSecond);
  const offset = sound.fromSeconds + (first - sound.startSeconds);
  const length = Math.min(end - first, buffer.duration - offset);
  if (length <= 0) return undefined;
  const source = audio.createBufferSource();
  source.buffer = buffer;
  source.playbackRate.value = pace;
  const gain = audio.createGain();
  const when = begin + (first - fromSecond) / pace;
  // Its loudness, fades included, as a line of points.
  const points = 64;
  const curve = Float32Array.from({ length: points + 1 }, (_, i) =>
    loudnessAt(sound, Math.min(sound.toSeconds - 1e-6, offset + (i / points) * length)),
  );
  const flat = curve.every((value) => Math.abs(value - curve[0]!) < 1e-6);
  if (flat) gain.gain.setValueAtTime(curve[0]!, when);
  else fade(gain.gain, sound, { offset, length, when, pace });
  source.connect(gain);
  source.start(when, offset, length);
  return { source, gain };
}

/** Straight lines between where fades begin and end. */
function fade(
  gain: AudioParam,
  sound: Sound,
  { offset, length, when, pace }: { offset: number; length: number; when: number; pace: number },
): void {
  const end = offset + length;
  const corners = [sound.fromSeconds + sound.fadeInSeconds, sound.toSeconds - sound.fadeOutSeconds].filter(
    (second) => second > offset && second < end,
  );
  gain.setValueAtTime(loudnessAt(sound, offset), when);
  for (const second of [...corners, end - 1e-6].sort((a, b) => a - b))
    gain.linearRampToValueAtTime(loudnessAt(sound, second), when + (second - offset) / pace);
}

/** What the clips themselves sound of: the sounds behind their sources, and the reel. */
export interface PlayedClips {
  readonly sources: readonly { readonly id: string; readonly url: string }[];
  readonly whooshes: boolean;
  readonly project: Project;
}

/** Decodes the sounds of sources and hands them to the thread that makes the clips' sounds. */
export async function prepareClips({ sources, project }: PlayedClips): Promise<void> {
  await Promise.all(
    sources.map(async ({ id, url }) => {
      if (hasSound(id, url)) return;
      const buffer = await prepareSound(url).catch(() => undefined);
      if (buffer) giveSound(id, url, buffer);
    }),
  );
  tellReel(project);
}

/** Seconds of the reel the clips' sound is made at a time, and how far ahead. */
const PART = 0.5;
const AHEAD = 1.5;

async function firstOfClips({ sources, whooshes }: PlayedClips, fromSecond: number): Promise<AudioBuffer | undefined> {
  return sources.length > 0 || whooshes ? partOfClips(fromSecond, 0) : undefined;
}

async function partOfClips(fromSecond: number, part: number): Promise<AudioBuffer> {
  const { left, right } = await readClips(
    Math.round((fromSecond + part * PART) * SOUND_RATE),
    Math.round(PART * SOUND_RATE),
  );
  const buffer = contextNow().createBuffer(2, left.length, SOUND_RATE);
  buffer.copyToChannel(left, 0);
  buffer.copyToChannel(right, 1);
  return buffer;
}

/** Part after part, each made while the ones before it are heard. */
async function playClips(
  audio: AudioContext,
  own: Playing,
  first: AudioBuffer,
  { begin, fromSecond, pace }: Beginning,
): Promise<void> {
  for (let [part, buffer] = [0, first]; !own.over; buffer = await partOfClips(fromSecond, ++part)) {
    if (own.over) return;
    const source = audio.createBufferSource();
    source.buffer = buffer;
    source.playbackRate.value = pace;
    source.connect(own.out);
    const when = begin + (part * PART) / pace;
    // One that comes late begins where it should be by now.
    const missed = Math.max(0, audio.currentTime - when);
    source.start(when + missed, missed * pace);
    own.nodes.push(source);
    source.onended = () => own.nodes.splice(own.nodes.indexOf(source), 1);
    while (!own.over && when + PART / pace - audio.currentTime > AHEAD)
      await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

let alsoPlays: ((project: Project) => void) | undefined;

/** From now on, plays something more whenever sounds begin to play. */
export const playAlong = (play: (project: Project) => void): void => void (alsoPlays = play);

/** What plays: its device, where it goes out, and when it began; nothing where nothing plays. */
export const whatPlays = () => playing && { audio: contextNow(), out: playing.out, ...playing.beginning };

function metered(audio: AudioContext, out: GainNode): AnalyserNode[] {
  const split = audio.createChannelSplitter(2);
  out.connect(split);
  return [0, 1].map((channel) => {
    const level = audio.createAnalyser();
    level.fftSize = 2048;
    split.connect(level, channel);
    return level;
  });
}

const heardNow = new Float32Array(2048);

/** The highest sample of either channel in the last twentieth of a second; 0 while nothing plays. */
export function levelNow(): number[] {
  if (!playing) return [0, 0];
  return playing.levels.map((level) => {
    level.getFloatTimeDomainData(heardNow);
    return heardNow.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  });
}

/** The second of the reel that is heard now; none while nothing plays. */
export const playedSecond = (): number | undefined => playing?.second();

export function stopSounds(): void {
  turns++;
  if (!playing) return;
  playing.over = true;
  playing.nodes.forEach((node) => node.stop());
  playing.out.disconnect();
  playing = undefined;
}
