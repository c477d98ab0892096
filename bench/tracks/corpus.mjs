// The music that the beat analysis is fitted on and checked with: drawn by our own instruments, drawn and played by a synthesiser, real
// compositions, accompaniments by another's generator, and recordings. Sounds are made once, into a folder.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { wavOf } from '../../demo/music/tape.mjs';
import { accompaniment, accompanimentStyles } from './accompaniments.mjs';
import { composition, compositionFiles, playMidi } from './compositions.mjs';
import { MidiTape } from './midi-tape.mjs';
import { recording, songFolders, STARTS } from './recordings.mjs';
import { STYLES } from './styles.mjs';
import { varied } from './varied.mjs';

/** Tracks of a style on each of the two. */
const EACH = 12;
/** Pieces of each style of accompaniment. */
const ACCOMPANIMENTS = 3;
const SECONDS = 30;
const HERTZ = 22050;

/** No network is fitted on these: they say how well what was fitted does on music from elsewhere. */
export const KEPT = ['planetblupi', 'recorded'];

/** Every track: `{ name, family, style, wav, beats, downbeats, tempo, onsets }`; the style of what is not drawn is its family. */
export function corpus(folder) {
  mkdirSync(folder, { recursive: true });
  const drawn = Object.keys(STYLES).flatMap((style) =>
    seeds(EACH).flatMap((n) => [
      once(folder, `${style}-${n}`, (wav) => ({ ...drawnTrack(style, n, wav), family: 'drawn' })),
      once(folder, `${style}-played-${n}`, (wav) => ({ ...playedTrack(style, 100 + n, wav), family: 'drawn' })),
    ]),
  );
  const of = (family, name, make) =>
    once(folder, `${family}-${name}`, (wav) => {
      const piece = make(wav);
      return piece && { ...piece, family, style: family };
    });
  return [
    ...drawn,
    ...compositionFiles().map(({ family, file }, i) => of(family, i, (wav) => composition(file, wav))),
    ...accompanimentStyles().flatMap((style) =>
      seeds(ACCOMPANIMENTS).map((n) => of('mma', `${style}-${n}`, (wav) => accompaniment(style, n, wav))),
    ),
    ...songFolders().flatMap((song) =>
      STARTS.map((start) => of('recorded', `${basename(song)}-${start}`, (wav) => recording(song, start, wav))),
    ),
  ].filter((track) => track !== undefined);
}

const seeds = (count) => Array.from({ length: count }, (_, i) => i + 1);

/** What is known of a track, made with its sound where it is not there yet. */
function once(folder, name, make) {
  const [wav, known] = [join(folder, `${name}.wav`), join(folder, `${name}.json`)];
  if (!existsSync(known)) writeFileSync(known, JSON.stringify(make(wav) ?? null));
  const track = JSON.parse(readFileSync(known, 'utf8'));
  return track ? { ...track, wav } : undefined;
}

/** Some went through an encoder at a low rate. */
function drawnTrack(style, seed, wav) {
  const { tape, codec, ...track } = varied(style, seed, { seconds: SECONDS });
  const ffmpeg = (...args) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
  const drawn = `${wav}.drawn.wav`;
  writeFileSync(drawn, wavOf(tape.samples));
  const coded = codec && `${wav}.mp3`;
  if (coded) ffmpeg('-i', drawn, '-b:a', `${codec}k`, coded);
  ffmpeg('-i', coded ?? drawn, '-ar', String(HERTZ), '-ac', '1', wav);
  for (const file of [drawn, coded]) if (file) rmSync(file);
  return track;
}

function playedTrack(style, seed, wav) {
  const tapeOf = (length, random) => new MidiTape(length, random);
  const { tape, ...track } = varied(style, seed, { seconds: SECONDS, tapeOf });
  const file = `${wav}.mid`;
  tape.write(file);
  playMidi(file, wav, { start: 0, seconds: SECONDS });
  rmSync(file);
  return track;
}
