// Recorded songs whose beats are known: bands that played to a click, with its tempo map. Debian's packages `fretsonfire-songs-muldjord` and
// `fretsonfire-songs-sectoid`: looked for where those put them, never shipped.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { parseMidi } from 'midi-file';
import { eventsOf, secondsOf } from './compositions.mjs';

const SONGS = '/usr/share/games/fretsonfire/data/songs';
const PARTS = ['song.ogg', 'guitar.ogg', 'rhythm.ogg'];
/** Where the stretches that are heard of each begin, seconds. */
export const STARTS = [10, 90];
const SECONDS = 60;

/** The folders there are, one for each song. Empty where the packages are not installed. */
export function songFolders() {
  if (!existsSync(SONGS)) return [];
  return readdirSync(SONGS)
    .flatMap((band) => readdirSync(join(SONGS, band)).map((song) => join(SONGS, band, song)))
    .filter((folder) => existsSync(join(folder, 'notes.mid')))
    .sort();
}

/** Mixes a stretch of a song into `wav` and tells its beats in seconds. Which of them begin bars is not known. */
export function recording(folder, start, wav) {
  const midi = parseMidi(readFileSync(join(folder, 'notes.mid')));
  const secondsAt = secondsOf(midi.header.ticksPerBeat, eventsOf(midi));
  const beats = [];
  for (let n = 0, at = 0; at < start + SECONDS; at = secondsAt(++n * midi.header.ticksPerBeat))
    if (at >= start) beats.push(at - start);
  const parts = PARTS.map((name) => join(folder, name)).filter(existsSync);
  const inputs = parts.flatMap((file) => ['-i', file]);
  const mix = ['-filter_complex', `amix=inputs=${parts.length}:normalize=0`];
  const stretch = ['-ss', String(start), '-t', String(SECONDS), '-ac', '1', '-ar', '22050'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...inputs, ...mix, ...stretch, wav]);
  return {
    name: `${basename(folder)} from ${start} s`,
    beats,
    tempo: (60 * (beats.length - 1)) / (beats.at(-1) - beats[0]),
  };
}
