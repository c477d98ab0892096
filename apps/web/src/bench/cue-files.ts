import {
  addCue,
  formatCueCsv,
  formatCueVtt,
  framesPerSecond,
  InvalidInput,
  parseCueCsv,
  parseCueVtt,
  tempoOf,
  type NamedTime,
  type Project,
} from '@idle-bend/core';
import { toast } from 'sonner';
import { edit } from '../shell/project-store.ts';
import { newId } from './edits.ts';

export const CUE_FORMATS = [
  { ending: 'csv', text: 'CSV', title: 'Seconds, frames and names, for tables' },
  { ending: 'vtt', text: 'WebVTT', title: 'For players and captioning tools' },
  { ending: 'mid', text: 'MIDI', title: 'Standard MIDI file: markers and notes at the music’s tempo' },
] as const;
export type CueEnding = (typeof CUE_FORMATS)[number]['ending'];

const secondsOf = ({ reel }: Project): NamedTime[] => reel.cues.map(({ frame, name }) => ({ second: Math.max(0, frame / framesPerSecond(reel.rate)), name }));

/** Saves the reel's cues as a file of one of the open formats. */
export async function saveCues(project: Project, ending: CueEnding): Promise<void> {
  const cues = secondsOf(project);
  const content = ending === 'csv' ? formatCueCsv(cues, project.reel.rate) : ending === 'vtt' ? formatCueVtt(cues) : await midiOf(cues, musicTempo(project));
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([content as BlobPart]));
  link.download = `cues.${ending}`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

const musicTempo = ({ reel }: Project): number => tempoOf(reel.sounds.find(({ beats }) => beats)?.beats?.times ?? []) ?? 120;

/** Sets the cues of a file on the reel: one undo. A time that carries a cue already keeps that. */
export async function takeCues(file: File): Promise<void> {
  try {
    const ending = /\.(\w+)$/.exec(file.name)?.[1]?.toLowerCase();
    const bytes = new Uint8Array(await file.arrayBuffer());
    const midi = ending === 'mid' || ending === 'midi' ? await readMidi(bytes) : undefined;
    const text = midi ? '' : new TextDecoder().decode(bytes);
    edit((project) => {
      const times = midi ?? (ending === 'vtt' ? parseCueVtt(text) : parseCueCsv(text, project.reel.rate));
      if (times.length === 0) throw new InvalidInput('file', 'holds no cues');
      const fps = framesPerSecond(project.reel.rate);
      return times.reduce((before, { second, name }) => addCue(before, { id: newId('cue'), frame: second * fps, name }), project);
    });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    toast.error(`${file.name}: ${error.field === 'file' ? '' : `${error.field}, `}${error.problem}.`);
  }
}

const TICKS = 960;

async function midiOf(cues: readonly NamedTime[], tempo: number): Promise<Uint8Array<ArrayBuffer>> {
  const { writeMidi } = await import('midi-file');
  const tickOf = (second: number) => Math.round((second * tempo * TICKS) / 60);
  const events = cues.flatMap(({ second, name }) => [
    { at: tickOf(second), event: { meta: true, type: 'marker', text: name } as const },
    { at: tickOf(second), event: { type: 'noteOn', channel: 0, noteNumber: 60, velocity: 100 } as const },
    { at: tickOf(second) + TICKS / 8, event: { type: 'noteOff', channel: 0, noteNumber: 60, velocity: 0 } as const },
  ]);
  events.sort((a, b) => a.at - b.at);
  let last = 0;
  const timed = events.map(({ at, event }) => {
    const deltaTime = at - last;
    last = at;
    return { deltaTime, ...event };
  });
  const begin = { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: Math.round(60e6 / tempo) } as const;
  const track = [begin, ...timed, { deltaTime: 0, meta: true, type: 'endOfTrack' } as const];
  return Uint8Array.from(writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat: TICKS }, tracks: [track] }));
}

/** Markers and beginnings of notes as times, through whatever tempo changes there are; of what begins at once a marker's name counts. */
async function readMidi(bytes: Uint8Array): Promise<NamedTime[]> {
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
  const tempos = all.flatMap(({ tick, event }) => (event.type === 'setTempo' ? [{ tick, each: event.microsecondsPerBeat! / 1e6 }] : [])).sort((a, b) => a.tick - b.tick); // prettier-ignore
  const secondOf = (tick: number): number => {
    if (!ticksPerBeat) return tick / (fps! * ticksPerFrame!);
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
    if (event.type === 'marker' || event.type === 'cuePoint') names.set(tick, event.text ?? '');
    else if (event.type === 'noteOn' && event.velocity! > 0 && !names.get(tick)) names.set(tick, '');
  }
  return [...names].map(([tick, name]) => ({ second: secondOf(tick), name })).sort((a, b) => a.second - b.second);
}
