import { rename, writeFile } from 'node:fs/promises';
import type { HeardSound } from '@idle-bend/core/api';
import { analyseBeats, ANY_TEMPO } from '@idle-bend/core/beats';
import { peaksOf } from '@idle-bend/core/sound';
import { BEATS_RATE, probe, readMono, writeSoundProxy } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface ListenInput {
  readonly original: string;
  readonly name: string;
  /** The files that the sound browsers play, its waveform and what was heard are written to. */
  readonly sound: string;
  readonly peaks: string;
  readonly heard: string;
}

/** Listens to a sound: waveform, beats, and a copy that browsers play. */
export const listen = defineJob({
  silentSeconds: 3600,
  async run({ original, name, sound, peaks, heard: file }: ListenInput, { signal, onProgress }): Promise<void> {
    const facts = await probe(original, name);
    await writeSoundProxy(original, facts, sound, signal);
    const samples = await readMono(original, facts, BEATS_RATE, signal);
    await writeFile(peaks, peaksOf(samples, BEATS_RATE));
    const found = analyseBeats(samples, BEATS_RATE, ANY_TEMPO, (share) => {
      signal.throwIfAborted();
      onProgress(Math.round(100 * share), 100);
    });
    const heard: HeardSound = { ...found, seconds: samples.length / BEATS_RATE };
    await writeFile(`${file}.part`, JSON.stringify(heard));
    await rename(`${file}.part`, file);
  },
});
