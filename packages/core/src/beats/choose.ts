import { beatsOf, candidatesOf, type Candidate } from './candidates.js';
import { pulseTable, type PulseTable } from './level-features.js';
import { LEVEL_NETWORKS } from './level-networks.js';
import { meanScoreOf } from './network.js';
import type { Novelty } from './novelty.js';
import type { TempoRange } from './tempo-range.js';
import { windowInputs, windowsOf, type Window } from './windows.js';

/** What a change to other beats costs, and how much a window's score counts, in nats. */
export const CHANGE = 6;
export const WEIGHT = 0.35;

/**
 * Windows are not independent, so what they say together is too sure of itself. How likely it really is was measured on styles and families
 * of music that were left out, each family counting alike: a straight line of log odds (J. Platt, 1999), lowered until in the worst family
 * 95 of 100 windows said to be 0.9 sure are right. `bench/tracks/fit.mjs --check` fits it again and says what it would be.
 */
export const SLOPE = 0.21;
export const OFFSET = -0.5;

/** Log odds, finite at 0 and 1. */
export const logOdds = (likely: number) => Math.log((likely + 1e-9) / (1 - likely + 1e-9));

/** How likely what the windows say to be so likely really is, 0…1. */
export function calibrated(likely: number): number {
  return 1 / (1 + Math.exp(-(SLOPE * logOdds(likely) + OFFSET)));
}

/** Two candidates whose beats are this near to each other, as shares of the period, are the same beats there. */
const SAME_BEATS = 0.1;

/** … and whose periods differ by less than this share go at the same tempo. */
const SAME_TEMPO = 0.04;

/** A stretch of the sound with what was chosen for it. Places are frames. */
interface Choice extends Window {
  /** Frames from beat to beat. */
  readonly period: number;
  /** How likely the tempo is this, 0…1; and, if it is, that the beats are where they are said. */
  readonly tempo: number;
  readonly phase: number;
  /** How likely the beats are half a beat later at this tempo. */
  readonly later: number;
}

export interface Chosen {
  /** Frames, strictly increasing. */
  readonly beats: readonly number[];
  readonly windows: readonly Choice[];
}

/**
 * Chooses beats among everything that may be them: window by window a network says how likely each candidate is. `accents` is never below 0, its
 * mean square 1; `onStep` is told shares done. `undefined` where nothing may be beats.
 */
export function chooseBeats(
  novelty: Novelty,
  accents: Float32Array,
  range: TempoRange,
  onStep: (share: number) => void,
): Chosen | undefined {
  const candidates = candidatesOf(novelty, accents, range, (share) => onStep(0.7 * share));
  if (candidates.length === 0) return undefined;
  const windows = windowsOf(novelty.frames, novelty.rate);
  const inputs = inputsOf(novelty, accents, candidates, windows);
  const scores = inputs.map((each) => each.map((input) => meanScoreOf(LEVEL_NETWORKS, input)));
  onStep(1);
  return decide(candidates, windows, scores);
}

/** What the network is asked of each candidate in each window. */
export function inputsOf(
  novelty: Novelty,
  accents: Float32Array,
  candidates: readonly Candidate[],
  windows: readonly Window[],
): number[][][] {
  const tables = new Map<readonly number[], PulseTable>();
  return candidates.map((candidate) => {
    let table = tables.get(candidate.pulse);
    if (!table) tables.set(candidate.pulse, (table = pulseTable(novelty, accents, candidate.pulse)));
    return windowInputs(table, candidate, windows);
  });
}

/**
 * The likeliest way through the windows by what the network scored, `scores[candidate][window]`. To change from one candidate to another
 * costs, so that a break does not turn what follows: a hidden Markov model, Viterbi for the beats, forward–backward for how sure they are
 * (L. Rabiner, Proc. IEEE 77, 1989).
 */
export function decide(
  candidates: readonly Candidate[],
  windows: readonly Window[],
  scores: readonly (readonly number[])[],
): Chosen {
  const weighed = scores.map((each) => each.map((score) => WEIGHT * score));
  const beats = candidates.map(beatsOf);
  const path = likeliest(weighed, windows.length);
  const likely = posteriors(weighed, windows.length);
  return {
    beats: stitched(beats, windows, path),
    windows: windows.map((window, w) => choiceOf(beats, window, path[w]!, likely[w]!)),
  };
}

/** The likeliest candidate of each window. */
function likeliest(scores: readonly (readonly number[])[], windows: number): number[] {
  let best = scores.map((score) => score[0]!);
  const back: number[][] = [];
  for (let w = 1; w < windows; w++) {
    const top = indexOfMost(best);
    const from = best.map((value, c) => (value >= best[top]! - CHANGE ? c : top));
    best = from.map((before, c) => best[before]! - (before === c ? 0 : CHANGE) + scores[c]![w]!);
    back.push(from);
  }
  const path = [indexOfMost(best)];
  for (let w = windows - 1; w > 0; w--) path.unshift(back[w - 1]![path[0]!]!);
  return path;
}

/** For each window how likely each candidate is, by all windows. */
function posteriors(scores: readonly (readonly number[])[], windows: number): number[][] {
  const change = Math.exp(-CHANGE);
  const evidence = Array.from({ length: windows }, (_, w) => {
    const top = Math.max(...scores.map((score) => score[w]!));
    return scores.map((score) => Math.exp(score[w]! - top));
  });
  const step = (before: readonly number[]) => {
    const all = before.reduce((a, b) => a + b, 0);
    return before.map((value) => value + change * all);
  };
  const scaled = (list: readonly number[]) => {
    const all = list.reduce((a, b) => a + b, 0);
    return list.map((value) => value / all);
  };
  const times = (a: readonly number[], b: readonly number[]) => a.map((value, i) => value * b[i]!);
  const forward: number[][] = [];
  for (let w = 0; w < windows; w++)
    forward.push(scaled(w === 0 ? evidence[0]! : times(step(forward[w - 1]!), evidence[w]!)));
  let backward = scores.map(() => 1);
  const out: number[][] = [];
  for (let w = windows - 1; w >= 0; w--) {
    out.unshift(scaled(times(forward[w]!, backward)));
    backward = scaled(step(times(backward, evidence[w]!)));
  }
  return out;
}

function choiceOf(
  candidates: readonly (readonly number[])[],
  window: Window,
  chosen: number,
  likely: readonly number[],
): Choice {
  const here = candidates.map((beats) => placesIn(beats, window));
  const own = here[chosen]!;
  let [same, atTempo, later] = [0, 0, 0];
  candidates.forEach((_, c) => {
    const { beats, period } = here[c]!;
    if (Math.abs(Math.log(period / own.period)) > SAME_TEMPO) return;
    atTempo += likely[c]!;
    const off = offsetOf(own.beats, beats, own.period);
    if (Math.abs(off) < SAME_BEATS) same += likely[c]!;
    else if (Math.abs(Math.abs(off) - 0.5) < SAME_BEATS) later += likely[c]!;
  });
  const tempo = calibrated(Math.min(1, atTempo));
  const phase = calibrated(Math.min(1, same)) / tempo;
  const others = Math.max(1e-12, atTempo - same);
  return { ...window, period: own.period, tempo, phase, later: (1 - phase) * Math.min(1, later / others) };
}

/** A candidate's beats about a window, and the middle of what lies between them. */
function placesIn(beats: readonly number[], { from, to }: Window): { beats: number[]; period: number } {
  const start = Math.max(0, Math.min(beats.length - 3, beats.findIndex((beat) => beat >= from) - 1));
  const end = beats.findLastIndex((beat) => beat < to) + 2;
  const inside = beats.slice(start, Math.max(start + 3, end));
  const gaps = inside.slice(1).map((beat, i) => beat - inside[i]!);
  return { beats: inside, period: gaps.sort((a, b) => a - b)[gaps.length >> 1]! };
}

/** How much later the others are than the nearest of these, in periods, −½ … ½: the middle one of all. */
function offsetOf(beats: readonly number[], others: readonly number[], period: number): number {
  const offs = others.map((other) => {
    const nearest = beats.reduce((best, beat) => (Math.abs(other - beat) < Math.abs(other - best) ? beat : best));
    return (other - nearest) / period;
  });
  return offs.sort((a, b) => a - b)[offs.length >> 1]!;
}

/** The beats of each window's candidate; after a change none comes sooner than most of a period after the last. */
function stitched(
  candidates: readonly (readonly number[])[],
  windows: readonly Window[],
  path: readonly number[],
): number[] {
  const out: number[] = [];
  windows.forEach(({ from, to }, w) => {
    const isLast = w === windows.length - 1;
    const beats = candidates[path[w]!]!;
    beats.forEach((beat, i) => {
      if ((w > 0 && beat < from) || (!isLast && beat >= to)) return;
      const period = i > 0 ? beat - beats[i - 1]! : beats[1]! - beat;
      if (out.length === 0 || beat - out.at(-1)! > 0.6 * period) out.push(beat);
    });
  });
  return out;
}

function indexOfMost(list: readonly number[]): number {
  return list.reduce((top, value, i) => (value > list[top]! ? i : top), 0);
}
