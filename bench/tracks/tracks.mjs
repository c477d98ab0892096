// Drawn music with its beats known: what the measurement of beat analysis is made of. Same seed, same tracks.
import { randomOf, Tape } from '../../demo/music/tape.mjs';

const SECONDS = 30;

/** Times of `per` equal parts of each beat, where the tempo may change with the beat. */
function gridOf(tempoAt, from, seconds) {
  const beats = [];
  for (let t = from, n = 0; t < seconds - 0.05; n++) {
    beats.push(t);
    t += 60 / tempoAt(n, t);
  }
  return beats;
}

const CHORDS = [
  [0, 4, 7],
  [9, 12, 16],
  [5, 9, 12],
  [7, 11, 14],
];
const SCALE = [0, 2, 4, 7, 9, 12, 14];

class Track {
  constructor(
    name,
    seed,
    { tempo, meter = 4, seconds = SECONDS, from = undefined, tempoAt = () => tempo, loose = 0.003 },
  ) {
    this.name = name;
    this.random = randomOf(seed * 7919 + 13);
    this.tape = new Tape(seconds, seed);
    this.meter = meter;
    this.loose = loose * (0.4 + 1.6 * this.random());
    this.root = 45 + Math.floor(this.random() * 10);
    const start = from ?? 0.15 + this.random() * 0.6;
    this.beats = gridOf(tempoAt, start, seconds);
    this.downbeats = this.beats.filter((_, i) => i % meter === 0);
    const gaps = this.beats
      .slice(1)
      .map((b, i) => b - this.beats[i])
      .sort((a, b) => a - b);
    this.tempo = 60 / gaps[gaps.length >> 1];
  }

  /** The time `part` (0…) of the way from beat i on, played a little off. */
  at(i, part = 0) {
    const whole = Math.floor(i + part + 1e-9);
    const rest = i + part - whole;
    const a = this.beats[whole];
    const b = this.beats[whole + 1];
    if (a === undefined) return undefined;
    const t = b === undefined ? a + rest * (a - this.beats[whole - 1]) : a + rest * (b - a);
    return Math.max(0, t + (this.random() + this.random() - 1) * this.loose);
  }

  length(i) {
    return (this.beats[i + 1] ?? this.beats[i] * 2 - this.beats[i - 1]) - this.beats[i];
  }

  play(kind, i, part, ...rest) {
    const at = this.at(i, part);
    if (at !== undefined && at < this.tape.samples.length / 44100 - 0.03) this.tape[kind](at, ...rest);
  }

  chord(bar) {
    return CHORDS[bar % 4].map((n) => this.root + 12 + n);
  }

  get(i) {
    return { bar: Math.floor(i / this.meter), of: i % this.meter };
  }

  hats(i, per, loud = 0.8, shape = (k) => k / per) {
    for (let k = 0; k < per; k++) this.play('hat', i, shape(k), loud * (k === 0 ? 1 : 0.65));
  }

  bassLine(i, { busy = 0.4, loud = 0.7 } = {}) {
    const { bar, of } = this.get(i);
    const note = this.root - 12 + CHORDS[bar % 4][0];
    if (of === 0 || this.random() < 0.6) this.play('bass', i, 0, this.length(i) * 0.45, note, loud);
    if (this.random() < busy)
      this.play('bass', i, 0.5, this.length(i) * 0.4, note + (this.random() < 0.4 ? 7 : 0), loud * 0.8);
  }

  tune(i, { chance = 0.5, loud = 0.7, parts = [0, 0.5] } = {}) {
    for (const part of parts)
      if (this.random() < chance)
        this.play('pluck', i, part, this.root + 24 + SCALE[Math.floor(this.random() * SCALE.length)], loud);
  }

  pads(loud = 1) {
    for (let i = 0; i < this.beats.length; i += this.meter) {
      let length = 0;
      for (let k = 0; k < this.meter && i + k < this.beats.length; k++) length += this.length(i + k);
      this.tape.pad(this.beats[i], length, this.chord(Math.floor(i / this.meter)), loud);
    }
  }

  done(peak = 0.8) {
    this.tape.level(peak);
    const bands = { kick: 'low', snare: 'mid', hat: 'high', note: 'mid' };
    const onsets = this.tape.struck
      .map(({ time, kind }) => ({ time, kind, band: bands[kind] }))
      .sort((a, b) => a.time - b.time);
    return {
      name: this.name,
      samples: this.tape.samples,
      beats: this.beats,
      downbeats: this.downbeats,
      tempo: this.tempo,
      onsets,
    };
  }
}

function rock(track, { per = 2, tune = 0.4, kickChance = 0.3, loudHats = 0.8, skip = () => false } = {}) {
  track.pads(0.8);
  track.beats.forEach((_, i) => {
    if (skip(i)) {
      track.tune(i, { chance: tune });
      return;
    }
    const { of } = track.get(i);
    if (of % 2 === 0) track.play('kick', i, 0);
    else track.play('snare', i, 0);
    if (track.random() < kickChance) track.play('kick', i, 0.5, 0.8);
    track.hats(i, per, loudHats);
    track.bassLine(i);
    track.tune(i, { chance: tune });
  });
}

function house(track, { depth = 0.6 } = {}) {
  const kicks = track.beats.map((_, i) => track.at(i, 0));
  track.pads(2.2);
  track.beats.forEach((_, i) => {
    track.play('bass', i, 0.5, track.length(i) * 0.4, track.root - 12 + CHORDS[track.get(i).bar % 4][0], 0.9);
    track.tune(i, { chance: 0.35, parts: [0, 0.25, 0.5, 0.75] });
  });
  track.tape.pump(kicks, depth, 0.28);
  track.beats.forEach((_, i) => {
    track.tape.kick(kicks[i], 1);
    track.play('hat', i, 0.5, 1, { decay: 0.06 });
    if (track.random() < 0.5) track.hats(i, 4, 0.35);
    if (track.get(i).of % 2 === 1) track.play('snare', i, 0, 0.7);
  });
}

function halfTime(track) {
  track.pads(1);
  track.beats.forEach((_, i) => {
    const { of } = track.get(i);
    if (of === 0) track.play('kick', i, 0);
    if (of === 2) track.play('snare', i, 0);
    if (of === 1 && track.random() < 0.5) track.play('kick', i, 0.5, 0.8);
    track.hats(i, 2, 0.7);
    track.bassLine(i, { busy: 0.2 });
    track.tune(i, { chance: 0.3 });
  });
}

function waltz(track, { drums = true } = {}) {
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    if (of === 0) {
      track.play('bass', i, 0, track.length(i) * 0.9, track.root - 12 + CHORDS[bar % 4][0], 0.9);
      if (drums) track.play('kick', i, 0, 0.8);
    } else {
      for (const note of track.chord(bar)) track.play('piano', i, 0, note, 0.35, 0.4);
      if (drums) track.play('hat', i, 0, 0.7);
    }
    track.tune(i, { chance: 0.35 });
  });
}

function sixEight(track, { drums = true } = {}) {
  track.pads(0.7);
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    if (drums) {
      if (of === 0) track.play('kick', i, 0);
      else track.play('snare', i, 0, 0.9);
      track.hats(i, 3, 0.7);
      if (track.random() < 0.3) track.play('kick', i, 2 / 3, 0.7);
    }
    const chord = track.chord(Math.floor(bar));
    for (let k = 0; k < 3; k++)
      track.play('piano', i, k / 3, chord[k] + 12 * (k === 1 ? 1 : 0), k === 0 ? 0.8 : 0.5, 0.5);
    if (of === 0) track.play('bass', i, 0, track.length(i) * 1.2, track.root - 12 + CHORDS[bar % 4][0], 0.8);
    track.tune(i, { chance: 0.25, parts: [0, 1 / 3, 2 / 3] });
  });
}

function swing(track) {
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    track.play('hat', i, 0, 0.8, { decay: 0.08 });
    if (of % 2 === 1) {
      track.play('hat', i, 2 / 3, 0.6, { decay: 0.06 });
      track.play('snare', i, 0, 0.25);
    }
    if (track.random() < 0.2) track.play('kick', i, 2 / 3, 0.5);
    if (of === 0) track.play('kick', i, 0, 0.5);
    track.play('bass', i, 0, track.length(i) * 0.8, track.root - 12 + CHORDS[bar % 4][of % 3], 0.8);
    if (track.random() < 0.4)
      for (const note of track.chord(bar))
        track.play('piano', i, track.random() < 0.5 ? 0 : 2 / 3, note + 12, 0.3, 0.3);
    track.tune(i, { chance: 0.35, parts: [0, 2 / 3] });
  });
}

function sparsePiano(track) {
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    const chord = track.chord(bar);
    if (of === 0) {
      track.play('piano', i, 0, track.root - 12 + CHORDS[bar % 4][0], 0.9, 1.6);
      for (const note of chord) track.play('piano', i, 0, note, 0.5, 1.4);
    } else if (track.random() < 0.6) track.play('piano', i, 0, chord[of % 3] + 12, 0.6, 1);
    if (track.random() < 0.4) track.play('piano', i, 0.5, chord[Math.floor(track.random() * 3)] + 12, 0.5, 0.8);
  });
}

function funk(track) {
  track.pads(0.5);
  const kicks = [0, 0.75, 2.5, 2.75];
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    for (const k of kicks) if (Math.floor(k) === of) track.play('kick', i, k - of, k === 0 ? 1 : 0.75);
    if (of % 2 === 1) track.play('snare', i, 0);
    if (of === 1) track.play('snare', i, 0.75, 0.3);
    track.hats(i, 4, 0.6);
    for (const part of [0, 0.25, 0.5, 0.75])
      if (track.random() < 0.35)
        track.play(
          'bass',
          i,
          part,
          track.length(i) * 0.2,
          track.root - 12 + CHORDS[bar % 4][0] + (track.random() < 0.3 ? 12 : 0),
          0.7,
        );
    track.tune(i, { chance: 0.2, parts: [0.25, 0.5, 0.75] });
  });
}

/** A kick on every beat, the snare three and six sixteenths after every second. */
function dembow(track) {
  track.pads(0.8);
  track.beats.forEach((_, i) => {
    track.play('kick', i, 0);
    if (track.get(i).of % 2 === 0) for (const part of [0.75, 1.5]) track.play('snare', i, part, 0.9);
    track.hats(i, 2, 0.5);
    track.bassLine(i, { busy: 0.3 });
    track.tune(i, { chance: 0.3, parts: [0, 0.5, 0.75] });
  });
}

/** A slow beat of three parts, snare on every second. */
function triplets(track) {
  track.pads(0.8);
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    if (of % 2 === 0) track.play('kick', i, 0);
    else track.play('snare', i, 0);
    if (track.random() < 0.3) track.play('kick', i, 2 / 3, 0.8);
    track.hats(i, 3, 0.7);
    const chord = track.chord(bar);
    for (let k = 0; k < 3; k++) if (track.random() < 0.7) track.play('piano', i, k / 3, chord[k], 0.5, 0.4);
    if (of % 2 === 0) track.play('bass', i, 0, track.length(i), track.root - 12 + CHORDS[bar % 4][0], 0.8);
  });
}

/** A tune in dotted eighths over the beat: three against two. */
function threeOverTwo(track) {
  track.pads(0.8);
  track.beats.forEach((_, i) => {
    const { bar, of } = track.get(i);
    if (of === 0 || of === 2) track.play('kick', i, 0);
    if (of % 2 === 1) track.play('snare', i, 0, 0.9);
    track.hats(i, 2, 0.6);
    if (of === 0)
      for (const part of [0, 0.75, 1.5, 2.25, 3])
        track.play('pluck', i, part, track.chord(bar)[Math.floor(part * 2) % 3] + 12, 0.9);
    track.bassLine(i, { busy: 0.2 });
  });
}

const between = (random, low, high) => low + (high - low) * random();

/** Twenty-eight tracks of one seed. */
export function tracks(seed) {
  const random = randomOf(seed * 104729 + 7);
  const made = [];
  const add = (name, about, play, finish = (t) => t.done()) => {
    const track = new Track(name, Math.floor(random() * 2 ** 30), about);
    play(track);
    made.push(() => finish(track));
  };
  const some = (low, high) => Math.round(between(random, low, high) * 10) / 10;
  add('rock', { tempo: some(100, 135) }, (t) => rock(t));
  add('rock, sixteenths', { tempo: some(80, 105) }, (t) => rock(t, { per: 4 }));
  add('fast', { tempo: some(150, 184) }, (t) => rock(t, { per: 1, kickChance: 0.5 }));
  add('dembow', { tempo: some(84, 104) }, dembow);
  add('triplets', { tempo: some(62, 90) }, triplets);
  add('fast, eighths', { tempo: some(160, 180) }, (t) => rock(t, { per: 2, kickChance: 0.2 }));
  add('ballad', { tempo: some(62, 78) }, (t) => rock(t, { per: 2, kickChance: 0.4 }));
  add('ballad, sixteenths', { tempo: some(64, 76) }, (t) => rock(t, { per: 4, kickChance: 0.3 }));
  add('house', { tempo: some(118, 130) }, (t) => house(t));
  add('house, pumped', { tempo: some(120, 128) }, (t) => house(t, { depth: 0.95 }));
  add('half-time', { tempo: some(132, 150) }, (t) => halfTime(t));
  add('waltz', { tempo: some(90, 170), meter: 3 }, (t) => waltz(t));
  add('waltz, no drums', { tempo: some(90, 150), meter: 3 }, (t) => waltz(t, { drums: false }));
  add('six eight', { tempo: some(62, 84), meter: 2 }, (t) => sixEight(t));
  add('six eight, no drums', { tempo: some(66, 90), meter: 2 }, (t) => sixEight(t, { drums: false }));
  add('swing', { tempo: some(110, 175) }, (t) => swing(t));
  add('piano', { tempo: some(66, 100) }, (t) => sparsePiano(t));
  add('funk', { tempo: some(90, 112) }, (t) => funk(t));
  add('three over two', { tempo: some(95, 125) }, (t) => threeOverTwo(t));
  add(
    'noise',
    { tempo: some(90, 130) },
    (t) => rock(t),
    (t) => (t.tape.level(0.8), t.tape.noise(0.12), t.done()),
  );
  const base = some(95, 120);
  const swell = between(random, 0.04, 0.08);
  add('drift', { tempo: base, tempoAt: (n, s) => base * (1 + swell * Math.sin((s / SECONDS) * 2 * Math.PI)) }, (t) =>
    rock(t),
  );
  const faster = some(120, 150);
  const slower = random() < 0.4 ? faster / 1.5 : some(84, 100);
  add('drift up', { tempo: slower, tempoAt: (n, s) => slower * (1 + (0.15 * s) / SECONDS) }, (t) =>
    house(t, { depth: 0.4 }),
  );
  add('change', { tempo: slower, tempoAt: (n, s) => (s < SECONDS / 2 ? slower : faster) }, (t) => rock(t));
  add('change down', { tempo: faster, tempoAt: (n, s) => (s < SECONDS * 0.55 ? faster : slower + 8) }, (t) =>
    house(t, { depth: 0.5 }),
  );
  add('break', { tempo: some(100, 128) }, (t) => rock(t, { tune: 0.6, skip: (i) => i >= 20 && i < 36 }));
  add(
    'quiet',
    { tempo: some(85, 125) },
    (t) => rock(t),
    (t) => (t.tape.level(0.02), t.tape.noise(0.0008), t.done(0.021)),
  );
  add(
    'clipped',
    { tempo: some(90, 140) },
    (t) => rock(t, { per: 2 }),
    (t) => t.done(3.5),
  );
  add('tune only', { tempo: some(95, 130) }, (t) =>
    t.beats.forEach((_, i) => (t.bassLine(i, { busy: 0.5 }), t.tune(i, { chance: 0.6 }))),
  );
  return made.map((make) => make());
}
