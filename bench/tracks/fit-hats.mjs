// Fits the network that tells hats from what else begins high, and says how well it does on what it was not fitted on.
//   node bench/tracks/fit-hats.mjs FOLDER            fits on everything and writes the network into the core
//   node bench/tracks/fit-hats.mjs FOLDER --check    leaves one group of styles out after the other, and each family of drums
// FOLDER keeps the sounds (200 MB) from one run to the next. The core has to be built.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { BEATS_RATE, probe, readMono } from '@idle-bend/media';
import { format, resolveConfig } from 'prettier';
import { randomOf, Tape, wavOf } from '../../demo/music/tape.mjs';
import { hatEvents, hatInputs } from '../../packages/core/dist/beats/hats.js';
import { scoreOf } from '../../packages/core/dist/beats/network.js';
import { noveltyOf } from '../../packages/core/dist/beats/novelty.js';
import { findOnsets } from '../../packages/core/dist/beats/onsets.js';
import { playMidi, SOUNDFONT } from './compositions.mjs';
import { MidiTape } from './midi-tape.mjs';
import { fitNetwork, networksFile } from './networks.mjs';
import { STYLES } from './styles.mjs';
import { varied } from './varied.mjs';

const SECONDS = 20;
const NEAR = 0.03;
const FOLDS = 4;
/** Other sounds of General MIDI, where they are installed (timgm6mb-soundfont, opl3-soundfont). */
const FONTS = {
  main: SOUNDFONT,
  small: '/usr/share/sounds/sf2/TimGM6mb.sf2',
  fm: '/usr/share/sounds/sf2/OPL-3_FM_128M.sf2',
};
/** Drum kits: a sound font and its program on the channel of drums. */
const KITS = [
  ...[0, 8, 16, 24, 25, 32, 40].map((program) => ({ font: 'main', program })),
  ...[0, 24, 25].map((program) => ({ font: 'small', program })),
  { font: 'fm', program: 0 },
].filter(({ font }) => existsSync(FONTS[font]));
const DRAWN = 3;
const PLAYED = 5;

/** Tracks of loose drums on each family. */
const LOOSE = 24;

/** Every track: its style, the family of its drums, and its events, each with what is asked about it and whether it is a hat. */
async function tracksIn(folder) {
  mkdirSync(folder, { recursive: true });
  const tracks = [];
  for (const [i, style] of Object.keys(STYLES).entries()) {
    for (let n = 0; n < DRAWN; n++) tracks.push(await heard(folder, style, 900 + n));
    for (let n = 0; n < PLAYED; n++)
      tracks.push(await heard(folder, style, 950 + n, KITS[(i * PLAYED + n * 3) % KITS.length]));
  }
  for (const [i, kit] of [undefined, undefined, ...KITS].entries())
    for (let n = 0; n < LOOSE; n++) tracks.push(await heard(folder, 'loose', 1000 * (i + 1) + n, kit));
  return tracks;
}

/** Drums that know nothing of one another: in music a snare hardly ever comes without a hat, and what is never seen cannot be told. */
function looseOn(tapeOf, seed) {
  const tape = tapeOf(SECONDS, seed);
  const random = randomOf(seed);
  const [sixteenth, bed] = [0.11 + 0.06 * random(), random() < 0.5];
  const [kicks, snares, hats] = [0.3, 0.2, 0.35].map((most) => most * random());
  const loud = { kick: 0.6 + 0.4 * random(), snare: 0.5 + 0.5 * random(), hat: 0.3 + 0.6 * random() };
  const open = random() < 0.3 ? 0.07 : 0.03;
  // Soft closed ones between loud open ones are hats as well.
  const soft =
    random() < 0.5 ? { chance: 0.15 + 0.35 * random(), loud: loud.hat * (0.15 + 0.35 * random()) } : undefined;
  for (let i = 0; (i + 8) * sixteenth < SECONDS - 0.5; i++) {
    const at = 0.3 + i * sixteenth;
    if (random() < kicks) tape.kick(at, loud.kick * (0.9 + 0.2 * random()));
    if (random() < snares) tape.snare(at, loud.snare * (0.9 + 0.2 * random()));
    if (random() < hats) tape.hat(at, loud.hat * (0.8 + 0.4 * random()), { decay: open });
    else if (soft && random() < soft.chance) tape.hat(at, soft.loud * (0.8 + 0.4 * random()), { decay: 0.03 });
    if (bed && i % 4 === 0) tape.bass(at, 3 * sixteenth, 40 + 2 * Math.floor(4 * random()), 0.6);
    if (bed && random() < 0.25) tape.piano(at, 60 + Math.floor(16 * random()), 0.5, 0.5);
  }
  return { tape, onsets: tape.struck.toSorted((a, b) => a.time - b.time) };
}

async function heard(folder, style, seed, kit) {
  const family = kit ? `${kit.font} ${kit.program}` : 'drawn';
  const wav = join(folder, `${style}-${seed}-${family.replace(' ', '-')}.wav`);
  const known = wav.replace(/wav$/, 'json');
  if (!existsSync(known)) writeFileSync(known, JSON.stringify((kit ? played : drawn)(style, seed, wav, kit)));
  const struck = JSON.parse(readFileSync(known, 'utf8'));
  const samples = await readMono(wav, await probe(wav));
  const hats = struck.filter(({ kind }) => kind === 'hat').map(({ time }) => time);
  const events = hatEvents(findOnsets(noveltyOf(samples, BEATS_RATE)));
  const inputs = hatInputs(events, samples, BEATS_RATE);
  const near = (times, time) => times.some((t) => Math.abs(t - time) < NEAR);
  return {
    ...{ style, family, hats: hats.length },
    unheard: hats.filter((time) => !events.some((event) => Math.abs(event.time - time) < NEAR)).length,
    events: events.map(({ time }, i) => ({ input: inputs[i], isHat: near(hats, time) })),
  };
}

function drawn(style, seed, wav) {
  const { tape, codec, onsets } =
    style === 'loose'
      ? looseOn((length, random) => new Tape(length, random), seed)
      : varied(style, seed, { seconds: SECONDS });
  const ffmpeg = (...args) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
  const [plain, coded] = [`${wav}.plain.wav`, `${wav}.mp3`];
  writeFileSync(plain, wavOf(tape.samples));
  if (codec) ffmpeg('-i', plain, '-b:a', `${codec}k`, coded);
  ffmpeg('-i', codec ? coded : plain, '-ar', String(BEATS_RATE), '-ac', '1', wav);
  for (const file of [plain, coded]) rmSync(file, { force: true });
  return onsets;
}

function played(style, seed, wav, { font, program }) {
  const tapeOf = (length, random) => new MidiTape(length, random, program);
  const { tape, onsets } =
    style === 'loose' ? looseOn(tapeOf, seed) : varied(style, seed, { seconds: SECONDS, tapeOf });
  tape.write(`${wav}.mid`);
  playMidi(`${wav}.mid`, wav, { start: 0, seconds: SECONDS, soundfont: FONTS[font] });
  rmSync(`${wav}.mid`);
  return onsets;
}

/** A hat is above nothing at all, anything else is below: two candidates, of which one is right. */
function fit(tracks) {
  const choices = tracks.flatMap(({ events }) =>
    events.map(({ input, isHat }) => ({
      inputs: [input, new Array(input.length).fill(0)],
      right: [isHat, !isHat],
      weight: 1,
    })),
  );
  return fitNetwork(choices, { units: 24, epochs: 30, drop: 0.1 });
}

const mean = (list) => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length);

function report(title, tracks, network) {
  const nothing = scoreOf(network, new Array(network.means.length).fill(0));
  const results = tracks.map(({ events, ...track }) => {
    const found = events.filter(({ input }) => scoreOf(network, input) > nothing);
    const right = found.filter(({ isHat }) => isHat).length;
    const all = events.filter(({ isHat }) => isHat).length;
    return { ...track, found: found.length, right, all, high: events.length };
  });
  const sum = (key) => results.reduce((total, result) => total + result[key], 0);
  const worst = results
    .filter(({ hats }) => hats > 5)
    .map((r) => ({ name: `${r.style} on ${r.family}`, f: (2 * r.right) / (r.found + r.all) }))
    .sort((a, b) => a.f - b.f);
  console.log(
    `${title}: of what begins high ${mean([sum('all') / sum('high')]).toFixed(3)} are hats; of what is said to be a hat ${(sum('right') / sum('found')).toFixed(3)}, of hats that begin high ${(sum('right') / sum('all')).toFixed(3)} found, ${sum('unheard')} more not heard; worst ${worst
      .slice(0, 3)
      .map(({ name, f }) => `${name} ${f.toFixed(2)}`)
      .join(', ')}`,
  );
}

const [folder, check] = process.argv.slice(2);
const tracks = await tracksIn(folder);
if (check === '--check') {
  const styles = [...Object.keys(STYLES), 'loose'];
  const outs = [
    ...Array.from({ length: FOLDS }, (_, fold) => [
      `styles ${fold}`,
      ({ style }) => styles.indexOf(style) % FOLDS === fold,
    ]),
    ...[...new Set(tracks.map(({ family }) => family))].map((family) => [family, (track) => track.family === family]),
  ];
  for (const [title, isOut] of outs) report(title, tracks.filter(isOut), fit(tracks.filter((track) => !isOut(track))));
} else {
  const network = fit(tracks);
  report('fitted on', tracks, network);
  const file = 'packages/core/src/beats/hat-networks.ts';
  const text = networksFile('HAT_NETWORKS', [network]).replace('fit.mjs', 'fit-hats.mjs');
  writeFileSync(file, await format(text, { ...(await resolveConfig(file)), parser: 'typescript' }));
}
