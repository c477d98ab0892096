// Real compositions whose beats are known: MIDI files with their tempo maps, played by a synthesiser. They are Debian packages' own
// (`openttd-openmsx`, `simutrans-data`, `planetblupi-music-midi`, `fluidsynth`, `fluid-soundfont-gm`): looked for where those put them,
// never shipped.
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { parseMidi, writeMidi } from 'midi-file';

export const SOUNDFONT = '/usr/share/sounds/sf2/FluidR3_GM.sf2';
const FOLDERS = [
  '/usr/share/games/openttd/baseset/openmsx',
  '/usr/share/games/openttd/gm',
  '/usr/share/games/simutrans/music',
  '/usr/share/planetblupi/music',
];
const FAMILIES = ['openttd', 'simutrans', 'planetblupi'];

/** How much of a piece is heard. */
const SECONDS = 60;
/** Notes this near to a quarter or a third of a beat lie on its grid, in beats; and the share of them that must. */
const NEAR_BEATS = 0.045;
const LEAST_ON_GRID = 0.8;

/** The files there are, by family. Empty where the packages are not installed. */
export function compositionFiles() {
  if (!existsSync(SOUNDFONT)) return [];
  return FOLDERS.filter(existsSync).flatMap((folder) =>
    readdirSync(folder)
      .filter((name) => /\.midi?$/i.test(name))
      .sort()
      .map((name) => ({ family: FAMILIES.find((family) => folder.includes(family)), file: join(folder, name) })),
  );
}

/**
 * Plays a piece's first minute into `wav` and tells its beats and first beats of bars in seconds. `undefined` where its notes do
 * not lie on the grid its tempo map says, so that nobody knows its beats.
 */
export function composition(file, wav) {
  const midi = parseMidi(readFileSync(file));
  const { ticksPerBeat } = midi.header;
  if (!ticksPerBeat) return undefined;
  const events = eventsOf(midi);
  const secondsAt = secondsOf(ticksPerBeat, events);
  const notes = events.filter(({ type, velocity }) => type === 'noteOn' && velocity > 0).map(({ tick }) => tick);
  if (notes.length < 50) return undefined;
  const first = Math.min(...notes);
  const last = Math.max(...notes);
  const onGrid = notes.filter((tick) => {
    const beats = tick / ticksPerBeat;
    return [4, 3].some((per) => Math.abs(beats * per - Math.round(beats * per)) < NEAR_BEATS * per);
  });
  // Chance alone puts about half of them there.
  if (onGrid.length / notes.length < LEAST_ON_GRID) return undefined;
  const signatures = events.filter(({ type }) => type === 'timeSignature').sort((a, b) => a.tick - b.tick);
  const meters = signatures.length > 0 ? signatures : undefined;
  const [beats, downbeats] = [[], []];
  const start = secondsAt(first) > 1 ? secondsAt(first) - 0.2 : 0;
  for (let tick = 0; tick <= last;) {
    const signature = meters?.findLast((m) => m.tick <= tick) ?? { tick: 0, numerator: 4, denominator: 4 };
    const isCompound = signature.denominator === 8 && signature.numerator % 3 === 0;
    const step = isCompound ? ticksPerBeat * 1.5 : (ticksPerBeat * 4) / signature.denominator;
    const perBar = isCompound ? signature.numerator / 3 : signature.numerator;
    const second = secondsAt(tick) - start;
    if (tick >= first - 1 && second < SECONDS) {
      beats.push(second);
      if (Math.round((tick - signature.tick) / step) % perBar === 0) downbeats.push(second);
    }
    tick += step;
  }
  play(midi, secondsAt, start, wav);
  const gaps = beats
    .slice(1)
    .map((b, i) => b - beats[i])
    .sort((a, b) => a - b);
  return { name: basename(file), beats, downbeats: meters ? downbeats : undefined, tempo: 60 / gaps[gaps.length >> 1] };
}

/** The events of all tracks, each with its place in ticks. */
export const eventsOf = (midi) =>
  midi.tracks.flatMap((track) => {
    let tick = 0;
    return track.map((event) => ({ ...event, tick: (tick += event.deltaTime) }));
  });

/** Seconds at a place in ticks, by the events that set the tempo. */
export function secondsOf(ticksPerBeat, events) {
  const tempi = [{ tick: 0, micros: 500000 }];
  for (const { tick, microsecondsPerBeat } of events
    .filter(({ type }) => type === 'setTempo')
    .sort((a, b) => a.tick - b.tick))
    if (tempi.at(-1).tick === tick) tempi.at(-1).micros = microsecondsPerBeat;
    else tempi.push({ tick, micros: microsecondsPerBeat });
  let at = 0;
  tempi.forEach((tempo, i) => {
    if (i > 0) at += ((tempo.tick - tempi[i - 1].tick) / ticksPerBeat) * tempi[i - 1].micros * 1e-6;
    tempo.seconds = at;
  });
  return (tick) => {
    const tempo = tempi.findLast((t) => t.tick <= tick);
    return tempo.seconds + ((tick - tempo.tick) / ticksPerBeat) * tempo.micros * 1e-6;
  };
}

function play(midi, secondsAt, start, wav) {
  const tracks = midi.tracks.map((track) => {
    let tick = 0;
    const kept = track.filter((event) => {
      tick += event.deltaTime;
      return secondsAt(tick) < start + SECONDS + 1;
    });
    return kept.at(-1)?.type === 'endOfTrack' ? kept : [...kept, { deltaTime: 0, meta: true, type: 'endOfTrack' }];
  });
  const cut = `${wav}.mid`;
  writeFileSync(cut, Buffer.from(writeMidi({ header: midi.header, tracks })));
  playMidi(cut, wav, { start, seconds: SECONDS });
  rmSync(cut);
}

/** Plays a MIDI file from `start` on, so many seconds, into a WAV of one channel. */
export function playMidi(file, wav, { start, seconds, soundfont = SOUNDFONT }) {
  // Some play on for ever; when ffmpeg has heard enough it hangs up.
  const piped =
    '"$0" -q -n -i -r 44100 -g 0.5 -T raw -O s16 -F /dev/stdout "$1" "$2" 2>/dev/null | ' +
    'ffmpeg -v error -y -f s16le -ar 44100 -ac 2 -i - -ss "$3" -t "$4" -ac 1 -ar 22050 "$5"';
  const options = { timeout: 120_000 };
  execFileSync('sh', ['-c', piped, 'fluidsynth', soundfont, file, String(start), String(seconds), wav], options);
}
