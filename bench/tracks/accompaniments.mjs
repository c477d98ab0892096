// Music by a generator that shares nothing with ours: the styles of `mma`, the Musical MIDI Accompaniment generator, played by a
// synthesiser. Debian's packages (`mma`, `fluidsynth`, `fluid-soundfont-gm`): looked for where those put them, never shipped.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { randomOf } from '../../demo/music/tape.mjs';
import { playMidi, SOUNDFONT } from './compositions.mjs';

const STYLES = '/usr/share/mma/lib/stdlib';
const SECONDS = 45;

/** The styles there are, each a file of grooves. Empty where the packages are not installed. */
export function accompanimentStyles() {
  if (!existsSync(SOUNDFONT) || !existsSync(STYLES)) return [];
  return readdirSync(STYLES)
    .filter((name) => name.endsWith('.mma') && !/^(none|metronome)/.test(name))
    .map((name) => name.slice(0, -4))
    .sort();
}

/** Beats a minute that a style is played at, by what its name says. */
const TEMPI = [
  [/fast|bebop|polka|jive|quickstep|viene|bluegrass|ragtime|charleston|dixie|salsa|merengue|gypsy/, [150, 230]],
  [/slow|ballad|lullaby|hymn|128|spiritual|desert|string/, [58, 96]],
  [/waltz/, [90, 190]],
  [/^68|68$/, [60, 120]],
];
const USUAL_TEMPI = [88, 150];
const PROGRESSIONS = [
  ['C', 'Am', 'F', 'G7'],
  ['C', 'F', 'G7', 'C'],
  ['Dm7', 'G7', 'CM7', 'CM7'],
  ['C', 'G', 'Am', 'F'],
  ['Am', 'G', 'F', 'E7'],
  ['C7', 'C7', 'F7', 'C7', 'G7', 'F7', 'C7', 'G7'],
  ['C', 'C', 'F', 'Fm'],
  ['Em', 'Am', 'Dm', 'G7'],
];

/** Plays a piece of a style into `wav`: some with the style’s introduction, then its grooves in turn. Beats and bars in seconds. */
export function accompaniment(style, seed, wav) {
  const random = randomOf([...style].reduce((hash, letter) => (hash * 31 + letter.charCodeAt(0)) % 1_000_003, seed));
  const pick = (list) => list[Math.floor(random() * list.length)];
  const text = readFileSync(join(STYLES, `${style}.mma`), 'utf8');
  const quarters = Number(/^\s*Time\s+(\d+)/im.exec(text)?.[1] ?? 4);
  const [, upper, lower] = /^\s*TimeSig\s+(\d+)[\s/]+(\d+)/im.exec(text) ?? [0, quarters, 4];
  const beatsPerBar = Number(lower) === 8 && upper % 3 === 0 ? upper / 3 : quarters;
  const [slowest, fastest] = TEMPI.find(([name]) => name.test(style))?.[1] ?? USUAL_TEMPI;
  // The generator counts whole quarters a minute.
  const quartersPerMinute = Math.round((slowest * (fastest / slowest) ** random() * quarters) / beatsPerBar);
  const tempo = (quartersPerMinute * beatsPerBar) / quarters;

  const grooves = [...text.matchAll(/^\s*DefGroove\s+(\S+)/gim)].map(([, name]) => name);
  const plain = grooves.filter((name) => !/intro|end|fill/i.test(name));
  if (plain.length === 0) return undefined;
  const intro = grooves.find((name) => /intro/i.test(name));
  const parts = [...(intro && random() < 0.5 ? [{ groove: intro, bars: 4 }] : [])];
  const bar = (beatsPerBar * 60) / tempo;
  while (parts.reduce((sum, { bars }) => sum + bars, 0) * bar < SECONDS + 2)
    parts.push({ groove: pick(plain), bars: pick([4, 8]) });
  const progression = pick(PROGRESSIONS);
  let n = 0;
  const lines = parts.flatMap(({ groove, bars }) => [
    `Groove ${groove}`,
    ...Array.from({ length: bars }, () => `${(n += 1)} ${progression[(n - 1) % progression.length]}`),
  ]);
  const song = `${wav}.mma`;
  const file = `${wav}.mid`;
  const key = Math.floor(random() * 12) - 6;
  writeFileSync(song, [`Tempo ${quartersPerMinute}`, `Transpose ${key}`, ...lines, ''].join('\n'));
  execFileSync('mma', [song, '-f', file], { stdio: 'ignore', timeout: 120_000 });
  playMidi(file, wav, { start: 0, seconds: SECONDS });
  for (const made of [song, file]) rmSync(made, { force: true });
  const beats = Array.from({ length: Math.floor((SECONDS * tempo) / 60) }, (_, i) => (i * 60) / tempo);
  return {
    name: `${style} ${seed}`,
    beats,
    downbeats: beats.filter((_, i) => i % beatsPerBar === 0),
    tempo,
  };
}
