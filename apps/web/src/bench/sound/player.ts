import { loudnessAt, type Sound } from '@idle-bend/core';

/** What is needed to play a sound: it, and the address of its file. */
export interface PlayedSound {
  readonly sound: Sound;
  readonly url: string;
}

/** The sounds of the reel through the loudspeakers, and the clock the picture follows while they play. */
let context: AudioContext | undefined;
const decoded = new Map<string, Promise<AudioBuffer>>();
let playing: { readonly nodes: readonly AudioBufferSourceNode[]; readonly out: GainNode; readonly second: () => number } | undefined;

function contextNow(): AudioContext {
  context ??= new AudioContext({ latencyHint: 'interactive' });
  return context;
}

/** Decodes a file once; before its sound is wanted, so that it is there when it is. */
export function prepareSound(url: string): Promise<AudioBuffer> {
  let buffer = decoded.get(url);
  if (!buffer) {
    buffer = fetch(url)
      .then((response) => (response.ok ? response.arrayBuffer() : Promise.reject(new Error(`the sound is not there (${response.status})`))))
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
export async function playSounds(sounds: readonly PlayedSound[], fromSecond: number, pace: number): Promise<SoundClock | undefined> {
  stopSounds();
  if (sounds.length === 0) return undefined;
  const audio = contextNow();
  if (audio.state !== 'running') await Promise.race([audio.resume(), new Promise((resolve) => setTimeout(resolve, 300))]);
  if (audio.state !== 'running') return undefined;
  const buffers = await Promise.all(sounds.map(({ url }) => prepareSound(url).catch(() => undefined)));
  const out = audio.createGain();
  out.connect(audio.destination);
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
  playing = { nodes, out, second: () => fromSecond + now() * pace };
  return { now };
}

interface Beginning {
  /** When, on the device's clock, and from which second of the reel. */
  readonly begin: number;
  readonly fromSecond: number;
  readonly pace: number;
}

function scheduled(audio: AudioContext, sound: Sound, buffer: AudioBuffer, { begin, fromSecond, pace }: Beginning) {
  const end = sound.start + (sound.to - sound.from);
  if (end <= fromSecond) return undefined;
  const first = Math.max(sound.start, fromSecond);
  const offset = sound.from + (first - sound.start);
  const length = Math.min(end - first, buffer.duration - offset);
  if (length <= 0) return undefined;
  const source = audio.createBufferSource();
  source.buffer = buffer;
  source.playbackRate.value = pace;
  const gain = audio.createGain();
  const when = begin + (first - fromSecond) / pace;
  // Its loudness, fades included, as a line of points.
  const points = 64;
  const curve = Float32Array.from({ length: points + 1 }, (_, i) => loudnessAt(sound, Math.min(sound.to - 1e-6, offset + (i / points) * length)));
  const flat = curve.every((value) => Math.abs(value - curve[0]!) < 1e-6);
  if (flat) gain.gain.setValueAtTime(curve[0]!, when);
  else fade(gain.gain, sound, { offset, length, when, pace });
  source.connect(gain);
  source.start(when, offset, length);
  return { source, gain };
}

/** Straight lines between where fades begin and end. */
function fade(gain: AudioParam, sound: Sound, { offset, length, when, pace }: { offset: number; length: number; when: number; pace: number }): void {
  const end = offset + length;
  const corners = [sound.from + sound.fadeIn, sound.to - sound.fadeOut].filter((second) => second > offset && second < end);
  gain.setValueAtTime(loudnessAt(sound, offset), when);
  for (const second of [...corners, end - 1e-6].sort((a, b) => a - b)) gain.linearRampToValueAtTime(loudnessAt(sound, second), when + (second - offset) / pace);
}

/** The second of the reel that is heard now; none while nothing plays. */
export const playedSecond = (): number | undefined => playing?.second();

export function stopSounds(): void {
  if (!playing) return;
  playing.nodes.forEach((node) => node.stop());
  playing.out.disconnect();
  playing = undefined;
}
