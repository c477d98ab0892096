// The music of Marble Parade: a little march for a glockenspiel and a small band, and a slower piece in six eight for the
// boat. Composed for the demo; every note and drum is drawn by `tape.mjs`, the same every time.
import { spawnSync } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Tape, writeWav } from './tape.mjs';

const TEMPO = 117;
const BEAT = 60 / TEMPO;
/** The first beat, so that the music does not begin on the very first sample. */
const START = 0.24;

/** Chords of the march, one a bar: root of the bass, notes above it (MIDI). */
const MARCH = [
  [43, [62, 67, 71]],
  [48, [64, 67, 72]],
  [50, [66, 69, 74]],
  [43, [62, 67, 71]],
  [40, [64, 67, 71]],
  [48, [64, 67, 72]],
  [50, [66, 69, 74]],
  [50, [66, 69, 72]],
];
/** The tune, two bars at a time, in eighths; 0 holds. */
const TUNE = [
  [79, 0, 83, 79, 86, 0, 83, 0, 84, 0, 83, 81, 79, 0, 0, 0],
  [81, 0, 85, 81, 86, 0, 81, 0, 83, 81, 79, 0, 74, 0, 0, 0],
  [76, 79, 83, 0, 86, 0, 83, 79, 84, 0, 88, 0, 84, 0, 79, 0],
  [78, 81, 86, 0, 84, 0, 81, 0, 78, 0, 74, 0, 0, 0, 0, 0],
];

/** Nineteen bars at 117 beats a minute: beginning, first part, pause of the drums, second part, end. */
function march() {
  const tape = new Tape(40, 117);
  const at = (bar, beat) => START + (bar * 4 + beat) * BEAT;
  for (let bar = 0; bar < 19; bar++) {
    const [root, chord] = MARCH[bar % 8];
    const drums = bar >= 2 && bar !== 10 && bar < 18;
    const full = bar >= 4 && bar !== 10 && bar < 18;
    tape.pad(at(bar, 0), 4 * BEAT, chord, bar < 2 ? 0.8 : 1.1);
    for (let beat = 0; beat < 4; beat++) {
      if (drums && beat % 2 === 0) tape.kick(at(bar, beat));
      if (drums && beat % 2 === 1) tape.snare(at(bar, beat), 0.8);
      if (full && bar % 2 === 1 && beat === 3) tape.kick(at(bar, beat + 0.5), 0.8);
      if (bar < 18)
        for (const half of [0, 0.5]) tape.hat(at(bar, beat + half), (half ? 0.55 : 0.85) * (drums ? 1 : 0.5));
      if (full) tape.bass(at(bar, beat), BEAT * 0.45, root - (beat % 2 ? 5 : 0), 0.75);
    }
    if (bar >= 2 && bar < 18)
      TUNE[(bar >> 1) % 4]
        .slice((bar % 2) * 8, (bar % 2) * 8 + 8)
        .forEach((note, i) => note && tape.pluck(at(bar, i / 2), note, 0.75, 0.5));
    if (full && bar >= 11) chord.forEach((note, i) => tape.piano(at(bar, 1.5 + (i % 2)), note, 0.22, 0.3));
  }
  tape.kick(at(18, 0));
  for (const note of [67, 71, 79]) tape.pluck(at(18, 0), note, 0.8, 1.2);
  return tape.level(0.85);
}

/** Fourteen bars in six eight, 66 dotted quarters a minute. */
function barcarole() {
  const tape = new Tape(26, 68);
  const half = 60 / 66;
  const chords = [
    [45, [60, 64, 69]],
    [41, [60, 65, 69]],
    [48, [60, 64, 67]],
    [43, [59, 62, 67]],
  ];
  const tune = [76, 0, 74, 72, 0, 69, 77, 0, 76, 72, 0, 0, 79, 0, 76, 72, 0, 74, 74, 0, 71, 67, 0, 0];
  for (let bar = 0; bar < 14; bar++) {
    const [root, chord] = chords[bar % 4];
    const at = (eighth) => 0.3 + (bar * 2 + eighth / 3) * half;
    tape.pad(at(0), 2 * half, chord, 0.7);
    tape.bass(at(0), half * 0.9, root, 0.7);
    tape.bass(at(3), half * 0.9, root + 7, 0.5);
    [0, 1, 2, 3, 4, 5].forEach((i) => tape.piano(at(i), chord[[0, 1, 2, 1, 2, 1][i]], i % 3 === 0 ? 0.6 : 0.35, 0.5));
    if (bar >= 2) {
      tape.kick(at(0), 0.6);
      tape.snare(at(3), 0.3);
      for (let i = 0; i < 6; i++) tape.hat(at(i), i % 3 === 0 ? 0.4 : 0.22);
      tune.slice((bar % 4) * 6, (bar % 4) * 6 + 6).forEach((note, i) => note && tape.pluck(at(i), note, 0.6, 0.5));
    }
  }
  return tape.level(0.8);
}

/** Writes both into a folder, as Ogg Vorbis, each with its tempo and beats beside it. */
export async function writeMusic(folder) {
  for (const [name, tape, beats] of [
    ['parade-march', march(), { tempo: TEMPO, first: START, beats: 76, bar: 4 }],
    ['boat-song', barcarole(), { tempo: 66, first: 0.3, beats: 28, bar: 2 }],
  ]) {
    const wav = join(folder, `${name}.wav`);
    await writeWav(wav, tape.samples);
    const { status, stderr } = spawnSync(
      'ffmpeg',
      ['-v', 'error', '-y', '-i', wav, '-c:a', 'libvorbis', '-q:a', '5', '-bitexact', join(folder, `${name}.ogg`)],
      { encoding: 'utf8' },
    );
    if (status !== 0) throw new Error(stderr);
    rmSync(wav);
    writeFileSync(join(folder, `${name}.json`), JSON.stringify({ name, ...beats }, null, 2) + '\n');
  }
}
