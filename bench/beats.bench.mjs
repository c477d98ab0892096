import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analyseBeats } from '@idle-bend/core/beats';
import { BEATS_RATE, probe, readMono } from '@idle-bend/media';
import { writeWav } from '../demo/music/tape.mjs';
import { continuity, fMeasure, metrical } from './tracks/meet.mjs';
import { tracks } from './tracks/tracks.mjs';

export const about = 'Beats, bars and onsets of drawn music whose own are known';

/** The networks of the analysis were fitted on `tracks/varied.mjs` and on compositions; these tracks they never heard. */
const SEEDS = [11];
const mean = (list) => list.reduce((a, b) => a + b, 0) / list.length;
const percent = (list) => `${(100 * mean(list)).toFixed(1)} %`;

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  try {
    const results = [];
    for (const seed of SEEDS)
      for (const track of tracks(seed)) {
        const wav = join(folder, `${results.length}.wav`);
        await writeWav(wav, track.samples);
        const found = analyseBeats(await readMono(wav, await probe(wav)), BEATS_RATE);
        results.push({ name: track.name, ...compare(track, found) });
      }
    const minute = join(folder, 'minute.wav');
    await writeWav(minute, Float64Array.from([...tracks(1)[0].samples, ...tracks(1)[8].samples]));
    const worst = results.filter(({ f }) => f < 0.9);
    const of = (key) => results.map((r) => r[key]).filter((value) => value !== undefined);
    const row = (what, value, limit, holds) => ({ what, value, limit, holds });
    return [
      row('baseline: beats every half second', mean(of('plain')).toFixed(3)),
      row(`${results.length} tracks: beats, F at 70 ms`, mean(of('f')).toFixed(3), '≥ 0.92', mean(of('f')) >= 0.92),
      ...worst.map(({ name, f, tempo, truth }) =>
        row(`  ${name}: ${tempo.toFixed(1)} a minute for ${truth.toFixed(1)}`, f.toFixed(3)),
      ),
      row('continuity at any metrical level', mean(of('amlt')).toFixed(3), '≥ 0.93', mean(of('amlt')) >= 0.93),
      row('mean error of the beats met', `${mean(of('error')).toFixed(2)} ms`, '≤ 5 ms', mean(of('error')) <= 5),
      row('bias', `${mean(of('bias')).toFixed(2)} ms`, 'within ±2 ms', Math.abs(mean(of('bias'))) <= 2),
      row('first beats of bars, F at 70 ms', mean(of('downbeats')).toFixed(3), '≥ 0.80', mean(of('downbeats')) >= 0.8),
      row('tempo within 4 %', percent(of('tempoMet')), '≥ 90 %', mean(of('tempoMet')) >= 0.9),
      row('onsets, F at 50 ms', mean(of('onsets')).toFixed(3), '≥ 0.94', mean(of('onsets')) >= 0.94),
      row('kicks, by what is low', mean(of('kicks')).toFixed(3), '≥ 0.62', mean(of('kicks')) >= 0.62),
      row('hats, by what is high', mean(of('hats')).toFixed(3), '≥ 0.87', mean(of('hats')) >= 0.87),
      sureness(results),
      cost(minute),
    ];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Of the stretches that are said to be sure, those whose beats are right. */
function sureness(results) {
  const sure = results.flatMap(({ sections }) => sections.filter(({ sure }) => sure >= 0.9));
  const all = results.flatMap(({ sections }) => sections);
  const right = mean(sure.map(({ right }) => (right ? 1 : 0)));
  return {
    what: `stretches said to be 90 % sure or more (${percent([sure.length / all.length])} of all) that are right`,
    value: percent([right]),
    limit: '≥ 95 %',
    holds: right >= 0.95,
  };
}

function compare({ beats, downbeats, tempo, onsets }, found) {
  const f = fMeasure(beats, found.beats, 0.07);
  const off = found.beats
    .map((b) => b - beats.reduce((near, t) => (Math.abs(t - b) < Math.abs(near - b) ? t : near)))
    .filter((e) => Math.abs(e) <= 0.07);
  const struck = (kind) => onsets.filter((o) => o.kind === kind).map((o) => o.time);
  const heard = (band) => found.onsets.filter((o) => o.band === band).map((o) => o.time);
  const byBand = (kind, band) => (struck(kind).length > 0 ? fMeasure(struck(kind), heard(band), 0.05) : undefined);
  const events = (times) => times.filter((t, i) => i === 0 || t - times[i - 1] > 0.03);
  return {
    f,
    sections: found.sections.map(({ from, to, confidence }) => {
      const within = (times) => times.filter((t) => t >= from && t < to);
      const right = fMeasure(within(beats), within(found.beats), 0.07) >= 0.85;
      return { sure: confidence.tempo * confidence.phase, right };
    }),
    tempo: found.tempo,
    truth: tempo,
    plain: fMeasure(
      beats,
      Array.from({ length: 60 }, (_, i) => 0.5 * i),
      0.07,
    ),
    amlt: Math.max(...metrical(beats).map((variant) => continuity(variant, found.beats))),
    // Of tracks at another level, what is met is met by chance.
    error: f > 0.8 ? 1000 * mean(off.map(Math.abs)) : undefined,
    bias: f > 0.8 ? 1000 * mean(off) : undefined,
    downbeats: fMeasure(
      downbeats,
      found.beats.filter((_, i) => i % found.bar.beats === found.bar.first),
      0.07,
    ),
    tempoMet: Math.abs(found.tempo / tempo - 1) < 0.04 ? 1 : 0,
    onsets: fMeasure(events(onsets.map((o) => o.time)), events(found.onsets.map((o) => o.time)), 0.05),
    kicks: byBand('kick', 'low'),
    hats: byBand('hat', 'high'),
  };
}

/** CPU of the command line for a minute of sound. */
function cost(wav) {
  const seconds = (args) => {
    const { stdout } = spawnSync('sh', ['-c', '"$@" > /dev/null; times', 'sh', process.execPath, ...args], {
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '' },
    });
    return stdout
      .trim()
      .split('\n')[1]
      .split(' ')
      .reduce((sum, text) => sum + Number(text.split('m')[0]) * 60 + parseFloat(text.split('m')[1]), 0);
  };
  const least = (args) => Math.min(...[1, 2, 3].map(() => seconds(args)));
  const [empty, whole] = [least(['-e', '0']), least(['bin/idle-bend', 'beats', wav, '--json'])];
  return {
    what: 'CPU for a minute of sound, with process start',
    value: `${whole.toFixed(2)} s (node alone starts in ${empty.toFixed(3)} s)`,
    limit: '≤ 1.5 s',
    holds: whole <= 1.5,
  };
}
