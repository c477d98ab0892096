// Fits the networks of the beat analysis and says how well they do on what they were not fitted on.
//   node bench/tracks/fit.mjs FOLDER            fits on everything and writes the networks into the core
//   node bench/tracks/fit.mjs FOLDER --check    leaves one group of styles out after the other, and each other family
// FOLDER keeps the sounds (3 GB) and what was heard in them from one run to the next. The core has to be built.
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { decide, logOdds, OFFSET, SLOPE } from '../../packages/core/dist/beats/choose.js';
import { meanScoreOf } from '../../packages/core/dist/beats/network.js';
import { format, resolveConfig } from 'prettier';
import { corpus, KEPT } from './corpus.mjs';
import { heard, NEAR, RIGHT } from './heard.mjs';
import { continuity, fMeasure, metrical } from './meet.mjs';
import { fitNetwork, networksFile } from './networks.mjs';

const FOLDS = 4;

const mean = (list) => list.reduce((a, b) => a + b, 0) / Math.max(1, list.length);

const levelChoices = (tracks) =>
  tracks.flatMap(({ windows, inputs, met }) =>
    windows.flatMap((_, w) => {
      const right = met.map((of) => of[w] >= RIGHT);
      return right.some(Boolean) && !right.every(Boolean)
        ? [{ inputs: inputs.map((of) => of[w]), right, weight: 1 / Math.sqrt(windows.length) }]
        : [];
    }),
  );
const barChoices = (tracks) => tracks.flatMap(({ bars }) => (bars ? [{ ...bars, weight: 1 }] : []));

const LEVEL = { units: 24, epochs: 15, drop: 0.2 };
const BAR = { units: 12, epochs: 30, drop: 0.2, most: 30 };
/** Each is fitted from so many beginnings. */
const SEEDS = [1];
const fitBoth = (tracks) => {
  const [levels, bars] = [levelChoices(tracks), barChoices(tracks)];
  return {
    level: SEEDS.map((seed) => fitNetwork(levels, { ...LEVEL, seed })),
    bar: SEEDS.map((seed) => fitNetwork(bars, { ...BAR, seed })),
  };
};

function measure(track, { level, bar }) {
  const { windows, candidates, inputs, rate } = track;
  const scores = inputs.map((each) => each.map((x) => meanScoreOf(level, x)));
  const chosen = decide(candidates, windows, scores);
  const beats = chosen.beats.map((beat) => beat / rate);
  const within = (times, { from, to }) => times.filter((t) => t * rate >= from && t * rate < to);
  const found = tempoOf(beats);
  const bars = track.bars && track.bars.inputs.map((x) => meanScoreOf(bar, x));
  const top = bars && bars.indexOf(Math.max(...bars));
  return {
    style: track.style,
    name: track.name,
    family: track.family,
    f: fMeasure(track.beats, beats, NEAR),
    best: track.best,
    amlt: Math.max(...metrical(track.beats).map((variant) => continuity(variant, beats))),
    tempo: Math.abs(found / track.tempo - 1) < 0.04 ? 1 : 0,
    found,
    truth: track.tempo,
    bar: bars && (track.bars.right[top] ? 1 : 0),
    barSure: bars && 1 / bars.reduce((sum, s) => sum + Math.exp(s - bars[top]), 0),
    windows: chosen.windows.map((window) => ({
      sure: window.tempo * window.phase,
      right: fMeasure(within(track.beats, window), within(beats, window), NEAR) >= RIGHT,
    })),
  };
}

function tempoOf(beats) {
  const gaps = beats
    .slice(1)
    .map((b, i) => b - beats[i])
    .sort((a, b) => a - b);
  return 60 / gaps[gaps.length >> 1];
}

/** Windows are sorted by how sure they are said to be. */
const BINS = [
  [0, 0.5],
  [0.5, 0.7],
  [0.7, 0.8],
  [0.8, 0.9],
  [0.9, 1.01],
];

function report(title, results) {
  const of = (key) => mean(results.map((r) => r[key]).filter((v) => v !== undefined));
  const styles = [...new Set(results.map((r) => r.style))]
    .map((style) => [style, mean(results.filter((r) => r.style === style).map((r) => r.f))])
    .sort((a, b) => a[1] - b[1]);
  const all = results.flatMap((r) => r.windows);
  const sure = all.filter((w) => w.sure >= 0.9);
  const bars = results.filter((r) => r.barSure >= 0.9);
  console.log(
    `${title}: ${results.length} tracks, F ${of('f').toFixed(3)} (best candidate ${of('best').toFixed(3)}), AMLt ${of('amlt').toFixed(3)}, tempo ${of('tempo').toFixed(3)}, bars ${of('bar').toFixed(3)}`,
  );
  console.log(
    `  said sure: ${((100 * sure.length) / all.length).toFixed(0)} % of windows, ${(100 * mean(sure.map((w) => +w.right))).toFixed(1)} % of them right; bars ${((100 * bars.length) / results.length).toFixed(0)} %, ${(100 * mean(bars.map((r) => r.bar))).toFixed(1)} % right`,
  );
  for (const [low, high] of BINS) {
    const some = all.filter((w) => w.sure >= low && w.sure < high);
    if (some.length > 0)
      console.log(
        `    said ${low} to ${Math.min(1, high)}: ${some.length}, right ${mean(some.map((w) => +w.right)).toFixed(3)}`,
      );
  }
  console.log(
    `  worst: ${styles
      .slice(0, 6)
      .map(([style, f]) => `${style} ${f.toFixed(2)}`)
      .join(', ')}`,
  );
}

/** What is said 0.9 sure has to be right this often in every family. */
const SURE = 0.9;
const RIGHT_WHERE_SURE = 0.95;

/** The line of log odds that `choose.ts` should have by what was left out; families count alike, and the worst one decides how low it lies. */
function lineOf(results) {
  const windows = (some) =>
    some.flatMap((r) => r.windows.map(({ sure, right }) => ({ odds: (logOdds(sure) - OFFSET) / SLOPE, right })));
  const families = familiesOf(results).map((family) => windows(results.filter((r) => r.family === family)));
  let [slope, offset] = [0.3, 0];
  for (let step = 0; step < 20_000; step++) {
    const errors = families.map((family) =>
      family.map(({ odds, right }) => ({ odds, error: 1 / (1 + Math.exp(-(slope * odds + offset))) - right })),
    );
    slope -= 0.02 * mean(errors.map((family) => mean(family.map(({ odds, error }) => odds * error))));
    offset -= 0.2 * mean(errors.map((family) => mean(family.map(({ error }) => error))));
  }
  const isTrue = (family) => {
    const sure = family.filter(({ odds }) => slope * odds + offset >= logOdds(SURE));
    return sure.length === 0 || mean(sure.map(({ right }) => +right)) >= RIGHT_WHERE_SURE;
  };
  while (!families.every(isTrue)) offset -= 0.01;
  return { slope, offset };
}

const folder = process.argv[2];
const tracks = [];
for (const track of corpus(folder)) tracks.push(await heard(track));
const fitted = tracks.filter(({ family }) => !KEPT.includes(family));
const familiesOf = (list) => [...new Set(list.map(({ family }) => family))];

if (process.argv.includes('--check')) {
  const leftOut = (title, out) => {
    const nets = fitBoth(fitted.filter((t) => !out(t)));
    return shown(
      title,
      fitted.filter(out).map((t) => measure(t, nets)),
    );
  };
  const styles = [...new Set(fitted.filter((t) => t.family === 'drawn').map((t) => t.style))];
  const results = [
    ...Array.from({ length: FOLDS }, (_, fold) => {
      const some = styles.filter((_, i) => i % FOLDS === fold);
      return leftOut(`drawn, ${some.length} styles left out`, (t) => some.includes(t.style));
    }),
    ...familiesOf(fitted)
      .filter((family) => family !== 'drawn')
      .map((family) => leftOut(`${family}, left out`, (t) => t.family === family)),
  ].flat();
  report('all that was left out', results);
  const nets = fitBoth(fitted);
  for (const family of KEPT)
    shown(
      `${family}, never fitted on`,
      tracks.filter((t) => t.family === family).map((t) => measure(t, nets)),
    );
  // What is kept decides nothing, so it has no part in the line.
  const { slope, offset } = lineOf(results);
  console.log(`line of log odds: SLOPE ${slope.toFixed(2)}, OFFSET ${offset.toFixed(2)} (now ${SLOPE} and ${OFFSET})`);
} else {
  const nets = fitBoth(fitted);
  const place = join(import.meta.dirname, '../../packages/core/src/beats');
  const write = async (name, text) => {
    const file = join(place, name);
    writeFileSync(file, await format(text, { ...(await resolveConfig(file)), filepath: file }));
  };
  await write('level-networks.ts', networksFile('LEVEL_NETWORKS', nets.level));
  await write('bar-networks.ts', networksFile('BAR_NETWORKS', nets.bar));
}

/** Reports them, each by itself where that is asked for. */
function shown(title, results) {
  if (results.length === 0) return results;
  report(title, results);
  if (process.argv.includes('-v'))
    for (const r of results)
      console.log(
        `    ${r.name} F ${r.f.toFixed(2)} of ${r.best.toFixed(2)}, ${r.found.toFixed(1)} for ${r.truth.toFixed(1)}`,
      );
  return results;
}
