import { tempoOf } from '@idle-bend/core/beats';
import { addCue } from '@idle-bend/core/edit';
import {
  midiOf,
  readMidi,
  decodeText,
  formatCueCsv,
  formatCueVtt,
  parseCueCsv,
  parseCueVtt,
  type NamedTime,
} from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import { framesPerSecond } from '@idle-bend/core/time';
import { edit } from '../../session/session.ts';
import { newId } from '../../session/command.ts';
import { tellError } from '../../session/notices.ts';

export const CUE_FORMATS = [
  { ending: 'csv', text: 'CSV', title: 'Seconds, frames and names, for tables' },
  { ending: 'vtt', text: 'WebVTT', title: 'For players and captioning tools' },
  { ending: 'mid', text: 'MIDI', title: 'Standard MIDI file: markers and notes at the music’s tempo' },
] as const;
export type CueEnding = (typeof CUE_FORMATS)[number]['ending'];

const secondsOf = ({ reel }: Project): NamedTime[] =>
  reel.cues.map(({ frame, name }) => ({ second: Math.max(0, frame / framesPerSecond(reel.rate)), name }));

/** Saves the reel's cues as a file of one of the open formats. */
export async function saveCues(project: Project, ending: CueEnding): Promise<void> {
  const cues = secondsOf(project);
  const content =
    ending === 'csv'
      ? formatCueCsv(cues, project.reel.rate)
      : ending === 'vtt'
        ? formatCueVtt(cues)
        : await midiOf(cues, musicTempo(project));
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([content]));
  link.download = `cues.${ending}`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

const musicTempo = ({ reel }: Project): number =>
  tempoOf(reel.sounds.find(({ beats }) => beats)?.beats?.times ?? []) ?? 120;

/** Sets the cues of a file on the reel: one undo. A time that carries a cue already keeps that. */
export async function takeCues(file: File): Promise<void> {
  try {
    const ending = /\.(\w+)$/.exec(file.name)?.[1]?.toLowerCase();
    const bytes = new Uint8Array(await file.arrayBuffer());
    const midi = ending === 'mid' || ending === 'midi' ? await readMidi(bytes) : undefined;
    const text = midi ? '' : decodeText(bytes);
    edit((project) => {
      const times = midi ?? (ending === 'vtt' ? parseCueVtt(text) : parseCueCsv(text, project.reel.rate));
      if (times.length === 0) throw new InvalidInput('file', 'holds no cues');
      const fps = framesPerSecond(project.reel.rate);
      return times.reduce(
        (before, { second, name }) => addCue(before, { id: newId('cue'), frame: second * fps, name }),
        project,
      );
    });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    tellError(`${file.name}: ${error.field === 'file' ? '' : `${error.field}, `}${error.problem}.`);
  }
}
