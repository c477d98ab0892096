import { InvalidInput } from '../foundation/errors.js';
import type { NamedTime } from './cue-text.js';

/** Browsers, workers and Node have them; this package knows none of the three. */
declare const TextEncoder: new () => { encode(text: string): Uint8Array };

declare const TextDecoder: new (label: string, options: { fatal: boolean }) => { decode(bytes: Uint8Array): string };

/** Ticks a beat: as many as a file can say, where beats are long, so that a tick stays below a fifth of a millisecond. */
const ticksFor = (secondsPerBeat: number) => Math.min(32_767, Math.max(960, Math.ceil(secondsPerBeat / 0.00015)));

/** Text of a MIDI file is bytes; UTF-8 by custom of today. */
const toBytes = (text: string) => String.fromCharCode(...new TextEncoder().encode(text));

function fromBytes(text: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Uint8Array.from(text, (c) => c.charCodeAt(0)));
  } catch {
    // From before that custom: the characters the bytes stand for.
    return text;
  }
}

/** Times as a Standard MIDI file: a marker and a short note each, at a tempo in beats a minute. */
export async function midiOf(cues: readonly NamedTime[], tempo: number): Promise<Uint8Array<ArrayBuffer>> {
  const { writeMidi } = await import('midi-file');
  // The tempo a file can say is whole microseconds a beat; an hour on, half of one would be heard.
  const microsecondsPerBeat = Math.round(60e6 / tempo);
  const ticks = ticksFor(microsecondsPerBeat / 1e6);
  const tickOf = (second: number) => Math.round((second * 1e6 * ticks) / microsecondsPerBeat);
  const events = cues.flatMap(({ second, name }) => [
    { at: tickOf(second), event: { meta: true, type: 'marker', text: toBytes(name) } as const },
    { at: tickOf(second), event: { type: 'noteOn', channel: 0, noteNumber: 60, velocity: 100 } as const },
    {
      at: tickOf(second) + Math.ceil(ticks / 8),
      event: { type: 'noteOff', channel: 0, noteNumber: 60, velocity: 0 } as const,
    },
  ]);
  events.sort((a, b) => a.at - b.at);
  let last = 0;
  const timed = events.map(({ at, event }) => {
    const deltaTime = at - last;
    last = at;
    return { deltaTime, ...event };
  });
  const begin = { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat } as const;
  const track = [begin, ...timed, { deltaTime: 0, meta: true, type: 'endOfTrack' } as const];
  return Uint8Array.from(writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat: ticks }, tracks: [track] }));
}

/** Markers and beginnings of notes as times, through whatever tempo changes there are; of what begins at once a marker's name counts. Throws `InvalidInput` for what is no such file. */
export async function readMidi(bytes: Uint8Array): Promise<NamedTime[]> {
  const { parseMidi } = await import('midi-file');
  let midi: ReturnType<typeof parseMidi>;
  try {
    midi = parseMidi(bytes);
  } catch {
    throw new InvalidInput('file', 'is not a Standard MIDI file that can be read');
  }
  const { ticksPerBeat, framesPerSecond: fps, ticksPerFrame } = midi.header;
  const all = midi.tracks.flatMap((track) => {
    let tick = 0;
    return track.map((event) => ({ tick: (tick += event.deltaTime), event }));
  });
  const tempos = all
    .flatMap(({ tick, event }) => (event.type === 'setTempo' ? [{ tick, each: event.microsecondsPerBeat / 1e6 }] : []))
    .sort((a, b) => a.tick - b.tick);
  const secondOf = (tick: number): number => {
    // Of the four rates SMPTE has, 29 stands for 30 with dropped labels (SMF 1.0, header chunk).
    if (!ticksPerBeat) return tick / ((fps === 29 ? 30_000 / 1001 : fps!) * ticksPerFrame!);
    let [second, from, each] = [0, 0, 0.5];
    for (const change of tempos) {
      if (change.tick >= tick) break;
      second += ((change.tick - from) / ticksPerBeat) * each;
      [from, each] = [change.tick, change.each];
    }
    return second + ((tick - from) / ticksPerBeat) * each;
  };
  const names = new Map<number, string>();
  for (const { tick, event } of all) {
    if (event.type === 'marker' || event.type === 'cuePoint') names.set(tick, fromBytes(event.text ?? ''));
    else if (event.type === 'noteOn' && event.velocity > 0 && !names.get(tick)) names.set(tick, '');
  }
  return [...names].map(([tick, name]) => ({ second: secondOf(tick), name })).sort((a, b) => a.second - b.second);
}
