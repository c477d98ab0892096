// What the beat analysis hears in a track, and which of it is right: what its networks are fitted on.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { BEATS_RATE, probe, readMono } from '@idle-bend/media';
import { accentsOf } from '../../packages/core/dist/beats/accents.js';
import { barCandidates } from '../../packages/core/dist/beats/bars.js';
import { beatsOf, candidatesOf } from '../../packages/core/dist/beats/candidates.js';
import { inputsOf } from '../../packages/core/dist/beats/choose.js';
import { pulseTable } from '../../packages/core/dist/beats/level-features.js';
import { noveltyOf } from '../../packages/core/dist/beats/novelty.js';
import { ANY_TEMPO } from '../../packages/core/dist/beats/tempo-range.js';
import { windowsOf } from '../../packages/core/dist/beats/windows.js';
import { fMeasure } from './meet.mjs';

export const NEAR = 0.07;
/** Beats of a window that meet the true ones this well are right. */
export const RIGHT = 0.85;

/** What was heard of a track, kept beside its sound. */
export async function heard(track) {
  const file = track.wav.replace(/\.wav$/, '.heard');
  if (existsSync(file)) return { ...track, ...deserialize(readFileSync(file)) };
  const novelty = await noveltyIn(track);
  const accents = accentsOf(novelty);
  const { rate, frames } = novelty;
  const candidates = candidatesOf(novelty, accents, ANY_TEMPO, () => undefined);
  const windows = windowsOf(frames, rate);
  const inputs = inputsOf(novelty, accents, candidates, windows).map((each) => each.map((x) => Float32Array.from(x)));
  const seconds = candidates.map((candidate) => beatsOf(candidate).map((beat) => beat / rate));
  const within = (times, { from, to }) => times.filter((t) => t * rate >= from && t * rate < to);
  const met = seconds.map((times) =>
    windows.map((window) => fMeasure(within(track.beats, window), within(times, window), NEAR)),
  );
  const whole = seconds.map((times) => fMeasure(track.beats, times, NEAR));
  const best = whole.indexOf(Math.max(...whole));
  const bars =
    whole[best] > 0.9 && track.downbeats ? barsOf(novelty, accents, seconds[best], track.downbeats) : undefined;
  const result = { rate, windows, candidates, inputs, met, best: whole[best], bars };
  writeFileSync(file, serialize(result));
  return { ...track, ...result };
}

/** Kept as well: it is slow to find, and what comes after it is what is worked on. */
async function noveltyIn({ wav }) {
  const file = wav.replace(/\.wav$/, '.novelty');
  if (existsSync(file)) return deserialize(readFileSync(file));
  const novelty = noveltyOf(await readMono(wav, await probe(wav)), BEATS_RATE);
  writeFileSync(file, serialize(novelty));
  return novelty;
}

/** Every way to count bars from true beats, and which are right. */
function barsOf(novelty, accents, beats, downbeats) {
  const ways = barCandidates(
    pulseTable(
      novelty,
      accents,
      beats.map((beat) => beat * novelty.rate),
    ),
  );
  const right = ways.map(
    ({ beats: size, first }) =>
      fMeasure(
        downbeats,
        beats.filter((_, i) => i % size === first),
        NEAR,
      ) > RIGHT,
  );
  return right.some(Boolean) ? { inputs: ways.map(({ input }) => input), right, seconds: beats, ways } : undefined;
}
