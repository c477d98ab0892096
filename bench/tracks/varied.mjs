// Drawn music of many styles, each track another: drums, bass, chords and tune are drawn by lot within what the style allows, and so are
// tempo, looseness, swing, what is left out when, and how it is mixed. Domain randomisation (J. Tobin et al., IROS 2017): what is learned
// from music as different as this holds for music nobody drew. Same style and seed, same track.
import { randomOf, Tape } from '../../demo/music/tape.mjs';
import { STYLES } from './styles.mjs';

const PROGRESSIONS = [
  [0, 9, 5, 7],
  [0, 5, 7, 5],
  [0, 7, 9, 5],
  [9, 5, 0, 7],
  [2, 7, 0, 0],
  [0, 0, 5, 7],
  [0, 10, 8, 7],
];
const MINOR = [0, 2, 3, 5, 7, 8, 10];
const MAJOR = [0, 2, 4, 5, 7, 9, 11];

const SECONDS = 30;
const third = (x) => (Math.abs(x - Math.floor(x) - 0.66) < 0.02 ? Math.floor(x) + 2 / 3 : x);

class Varied {
  constructor(style, seed, seconds, tapeOf) {
    this.style = style;
    this.is = STYLES[style];
    let hash = seed;
    for (const c of style) hash = (hash * 31 + c.charCodeAt(0)) >>> 0;
    this.random = randomOf(hash);
    this.tape = tapeOf(seconds, hash ^ 0x5bd1e995);
    this.seconds = seconds;
    this.meter = this.is.meter ?? 4;
    this.drawTime();
    this.drawBand();
  }

  chance(p) {
    return this.random() < p;
  }

  between(low, high) {
    return low + (high - low) * this.random();
  }

  pick(list) {
    return list[Math.floor(this.random() * list.length)];
  }

  drawTime() {
    const [low, high] = this.is.tempo;
    const tempo = low * (high / low) ** this.random();
    const way = this.random();
    const amount = this.between(-0.12, 0.16);
    const jump = this.pick([0.75, 0.8, 1.2, 4 / 3]);
    const swell = this.between(0.02, 0.06);
    const half = this.seconds * this.between(0.35, 0.65);
    const tempoAt = (t) => {
      if (way < 0.1) return tempo * (1 + (amount * t) / this.seconds);
      if (way < 0.15) return t < half ? tempo : tempo * jump;
      if (way < 0.22) return tempo * (1 + swell * Math.sin((t / this.seconds) * 9));
      return tempo;
    };
    this.beats = [];
    for (let t = this.between(0.05, 1.2); t < this.seconds - 0.05; t += 60 / tempoAt(t)) this.beats.push(t);
    // Some begin before a bar does.
    this.pickup = this.chance(0.2) ? 1 + Math.floor(this.random() * (this.meter - 1)) : 0;
    this.downbeats = this.beats.filter((_, i) => this.placeOf(i).of === 0);
    this.loose = this.chance(0.4) ? 0.002 : this.between(0.004, 0.02);
    this.lean = this.is.triplet ? 0 : this.chance(this.is.swing ?? 0.06) ? this.between(0.08, 0.32) : 0;
  }

  placeOf(i) {
    const n = i - this.pickup + this.meter;
    return { bar: Math.floor(n / this.meter), of: n % this.meter };
  }

  drawBand() {
    const { is } = this;
    this.root = 40 + Math.floor(this.between(0, 12));
    this.scale = this.chance(0.5) ? MINOR : MAJOR;
    this.progression = this.pick(PROGRESSIONS);
    this.barsAChord = this.chance(0.25) ? 2 : 1;
    this.kicks = this.pick(is.kick).map(third);
    this.otherKicks = this.chance(0.5) ? this.pick(is.kick).map(third) : this.kicks;
    this.snares = this.pick(is.snare).map(third);
    this.hatWay = this.pick(is.hats);
    this.bassWay = this.pick(is.bass);
    this.chordWay = this.pick(is.chords);
    this.kickSound = { low: this.between(38, 62), sweep: this.between(50, 180), decay: this.between(0.07, 0.3) };
    this.snareKind = this.chance(is.rim ?? 0.1) ? 'rim' : this.pick(['snare', 'snare', 'clap']);
    this.hatDecay = this.between(0.015, 0.05);
    this.openDecay = this.between(0.05, 0.18);
    this.loud = {
      kick: this.between(0.5, 1.15),
      snare: this.between(0.4, 1.1),
      hat: this.between(0.25, 1),
      open: this.between(0.5, 1.6),
      bass: this.between(0.4, 1.1),
      chords: this.between(0.4, 1.5),
      tune: this.between(0.3, 1),
    };
    this.chordSound = this.chance(is.slow ?? 0.15) ? 'bow' : this.pick(['pad', 'piano', 'pluck', 'organ', 'piano']);
    this.tuneSound = this.pick(['pluck', 'piano', 'voice', 'voice', 'bow', 'none']);
    this.syncopation = this.motif(4, 0.38);
    this.comping = this.motif(4, 0.3);
    this.tuneRhythm = this.motif(is.triplet ? 3 : 2, 0.4, 2);
    this.isPushed = this.chance(0.15);
    // Where instruments are silent, in shares of the whole.
    this.out = Object.fromEntries(
      ['drums', 'bass', 'chords', 'tune', 'kick'].map((who) => {
        if (!this.chance(who === 'drums' ? 0.45 : 0.3)) return [who, undefined];
        const from = this.chance(0.4) ? -0.01 : this.between(0.1, 0.7);
        return [who, [from, from + this.between(0.1, 0.4)]];
      }),
    );
    this.fills = this.chance(0.5);
  }

  /** A rhythm of so many bars that comes again and again: which of `per` parts of each beat are struck. */
  motif(per, density, bars = 1) {
    return Array.from({ length: bars * this.meter * per }, (_, i) =>
      this.chance(i % per === 0 ? density * 1.3 : density),
    ).flatMap((struck, i) => (struck ? [i / per] : []));
  }

  /** The seconds of a place counted in beats, swung, played a little off. */
  at(place) {
    let whole = Math.floor(place + 1e-9);
    let part = place - whole;
    if (this.is.triplet && Math.abs(part - 0.5) < 0.01) part = 2 / 3;
    if (this.lean > 0) {
      // The second of two sixteenths is late.
      const sixteenth = Math.round(part * 4);
      if (Math.abs(part * 4 - sixteenth) < 0.01 && sixteenth % 2 === 1) part += this.lean * 0.25;
    }
    if (whole < 0) return undefined;
    const a = this.beats[whole];
    const b = this.beats[whole + 1];
    if (a === undefined) return undefined;
    const t = b === undefined ? a + part * (a - this.beats[whole - 1]) : a + part * (b - a);
    const off = (this.random() + this.random() - 1) * this.loose;
    const time = Math.max(0, t + off);
    return time < this.seconds - 0.04 ? time : undefined;
  }

  isOut(who, i) {
    const span = this.out[who];
    const share = i / this.beats.length;
    return span !== undefined && share >= span[0] && share < span[1];
  }

  play() {
    const bars = Math.ceil(this.beats.length / this.meter) + 1;
    const kickTimes = [];
    const late = [];
    for (let bar = 0; bar < bars; bar++) {
      const start = (bar - 1) * this.meter + this.pickup;
      this.playBass(bar, start);
      this.playChords(bar, start);
      this.playTune(bar, start);
      this.drums(bar, start, late, kickTimes);
    }
    if (this.chance(this.is.pump ?? 0.02)) this.tape.pump(kickTimes, this.between(0.4, 0.97), this.between(0.15, 0.4));
    late.forEach((strike) => strike());
    this.mix();
  }

  drums(bar, start, late, kickTimes) {
    if (this.isOut('drums', start)) return;
    const strike = (kind, place, ...rest) => {
      const time = this.at(start + place);
      if (time === undefined || start + place < 0) return;
      if (kind === 'kick') kickTimes.push(time);
      late.push(() => this[kind](time, ...rest));
    };
    const fill = this.fills && bar % 4 === 0 && bar > 1;
    const kicks = bar % 2 === 0 ? this.otherKicks : this.kicks;
    if (!this.isOut('kick', start)) for (const k of kicks) strike('kick', k, this.loud.kick * this.between(0.8, 1));
    for (const s of this.snares)
      if (!fill || s < this.meter - 1) strike(this.snareKind, s, this.loud.snare * this.between(0.8, 1));
    if (fill) for (let k = 0; k < 4; k++) strike('snare', this.meter - 1 + k / 4, this.loud.snare * (0.5 + 0.12 * k));
    if (this.is.ghosts)
      for (let k = 0; k < this.meter * 4; k++)
        if (this.chance(this.is.ghosts * 0.25)) strike('snare', k / 4, this.loud.snare * this.between(0.1, 0.3));
    const hat = (place, loud, decay = this.hatDecay) => strike('hat', place, this.loud.hat * loud, decay);
    for (let i = 0; i < this.meter; i++) {
      const way = this.hatWay;
      if (way === 'quarters') hat(i, 1);
      if (way === 'eighths') {
        hat(i, 1);
        hat(i + 0.5, 0.6);
      }
      if (way === 'thirds') {
        hat(i, 1);
        hat(i + 1 / 3, 0.55);
        hat(i + 2 / 3, 0.6);
      }
      if (way === 'sixteenths' || way === 'off sixteenths')
        for (const k of [0, 1, 2, 3]) hat(i + k / 4, k === 0 ? 0.8 : 0.5);
      if (way === 'off' || way === 'off sixteenths') strike('hat', i + 0.5, this.loud.open, this.openDecay);
      if (way === 'ride') {
        hat(i, 0.9, 0.08);
        if (i % 2 === 1) {
          hat(i + 2 / 3, 0.6, 0.07);
          hat(i, 0.7, 0.02);
        }
      }
      if (way === 'rolls') {
        const per = this.chance(0.2) ? this.pick([4, 6, 8]) : 2;
        for (let k = 0; k < per; k++) hat(i + k / per, k === 0 ? 1 : 0.6);
      }
    }
  }

  chordOf(bar) {
    const root = this.progression[Math.floor(bar / this.barsAChord) % 4];
    return [0, this.scale === MINOR ? 3 : 4, 7].map((n) => this.root + 12 + ((root + n) % 12));
  }

  playBass(bar, start) {
    if (this.isOut('bass', start)) return;
    const note = this.root - 12 + ((this.chordOf(bar)[0] - this.root) % 12);
    const bass = (place, length, pitch = note, loud = 1) => {
      const time = this.at(start + place);
      if (time !== undefined && start + place >= 0)
        this.tape.bass(time, Math.max(0.05, length * this.length(start)), pitch, this.loud.bass * loud);
    };
    const way = this.bassWay;
    const each = (per, skip = () => false, pitch = () => note) => {
      for (let k = 0; k < this.meter * per; k++)
        if (!skip(k)) bass(k / per, 0.85 / per, pitch(k), k % per === 0 ? 1 : 0.85);
    };
    if (way === 'roots') bass(0, this.meter * 0.9);
    if (way === 'pushed') {
      bass(0, 1.4);
      bass(1.5, this.meter - 1.7);
    }
    if (way === 'quarters') each(1, undefined, (k) => note + (k % 2 ? 7 : 0));
    if (way === 'eighths') each(2);
    if (way === 'sixteenths') each(4);
    if (way === 'thirds') each(3, (k) => k % 3 === 1);
    if (way === 'off') each(2, (k) => k % 2 === 0);
    if (way === 'off sixteenths') each(4, (k) => k % 4 === 0);
    if (way === 'gallop') each(4, (k) => k % 4 < 2);
    if (way === 'octaves') each(2, undefined, (k) => note + (k % 2 ? 12 : 0));
    if (way === 'walking') each(1, undefined, (k) => note + [0, 4, 7, 9, 12][(k + bar) % 5]);
    if (way === 'tresillo') for (const place of [0, 1.5, 3]) if (place < this.meter) bass(place, 0.9);
    if (way === 'syncopated')
      for (const place of this.syncopation) bass(place, 0.3, note + (this.chance(0.2) ? 12 : 0));
    if (way === 'kicks') for (const place of this.kicks) bass(place, 0.9);
  }

  length(i) {
    const n = Math.max(0, Math.min(this.beats.length - 2, Math.floor(i)));
    return this.beats[n + 1] - this.beats[n];
  }

  playChords(bar, start) {
    if (this.isOut('chords', start)) return;
    const chord = this.chordOf(bar);
    const beat = this.length(start);
    const sound = (place, length, loud = 1, notes = chord) => {
      const time = this.at(start + place);
      if (time !== undefined && start + place >= 0)
        this.sound(this.chordSound, time, length * beat, notes, this.loud.chords * loud);
    };
    const ahead = this.isPushed && bar > 1 ? 0.5 : 0;
    const way = this.chordWay;
    if (way === 'held') sound(-ahead, this.meter);
    if (way === 'pushed') {
      sound(0, 1.4);
      sound(1.5, this.meter - 1.5);
    }
    if (way === 'stabs') for (const place of this.comping.slice(0, 4)) sound(place, 0.3);
    if (way === 'syncopated') for (const place of this.comping) sound(place, 0.25, this.between(0.6, 1));
    if (way === 'tresillo') for (const place of [0, 0.75, 1.5, 2, 2.75, 3.5]) if (place < this.meter) sound(place, 0.3);
    for (let i = 0; i < this.meter; i++) {
      if (way === 'off') sound(i + 0.5, 0.3);
      if (way === 'waltz' && i > 0) sound(i, 0.6);
      if (way === 'eighths') {
        sound(i, 0.45);
        sound(i + 0.5, 0.45, 0.7);
      }
      if (way === 'strum') {
        sound(i, 0.5, i % 2 ? 0.8 : 1);
        if (this.chance(0.6)) sound(i + 0.5, 0.4, 0.6);
      }
      const per = way === 'thirds' ? 3 : way === 'arpeggio' ? (this.is.triplet ? 3 : beat > 0.6 ? 4 : 2) : 0;
      for (let k = 0; k < per; k++) sound(i + k / per, 0.9 / per, k === 0 ? 1 : 0.7, [chord[(i * per + k) % 3] + 12]);
    }
  }

  playTune(bar, start) {
    if (this.tuneSound === 'none' || this.isOut('tune', start)) return;
    const half = (bar % 2) * this.meter;
    for (const place of this.tuneRhythm) {
      if (place < half || place >= half + this.meter || !this.chance(0.9)) continue;
      const time = this.at(start + place - half);
      const note = this.root + 24 + this.pick(this.scale);
      if (time !== undefined && start >= 0)
        this.sound(this.tuneSound, time, this.between(0.3, 0.9) * this.length(start), [note], this.loud.tune);
    }
  }

  kick(time, loud) {
    this.tape.kick(time, loud, this.kickSound);
  }

  snare(time, loud) {
    this.tape.snare(time, loud);
  }

  hat(time, loud, decay) {
    this.tape.hat(time, loud, { decay });
  }

  /** Three bursts and a tail. */
  clap(time, loud) {
    if (this.tape.clap) return this.tape.clap(time, loud);
    for (const late of [0.009, 0.018])
      if (time + late < this.seconds - 0.1) this.burst(time + late - 0.009, loud * 0.6, 0.006);
    this.tape.note('snare', time, loud);
    this.burst(time + 0.018, loud, 0.07);
  }

  burst(time, loud, decay) {
    let slow = 0;
    this.tape.add(time, decay * 5, (t) => {
      slow += (this.tape.random() * 2 - 1 - slow) * 0.5;
      return loud * 0.5 * slow * Math.exp(-t / decay);
    });
  }

  rim(time, loud) {
    if (this.tape.rim) return this.tape.rim(time, loud);
    this.tape.note('snare', time, loud);
    this.tape.add(time, 0.05, (t) => loud * 0.35 * (Math.sin(10600 * t) + Math.sin(4100 * t)) * Math.exp(-t / 0.008));
  }

  sound(kind, time, length, notes, loud) {
    const { tape } = this;
    if (kind === 'pad') return tape.pad(time, Math.max(0.15, length), notes, loud * 2, Math.min(0.2, length / 4));
    for (const note of notes) {
      const each = loud / Math.sqrt(notes.length);
      const isHeld = kind === 'organ' || kind === 'bow' || kind === 'voice';
      if (isHeld && tape.held) {
        tape.held(kind, time, length, note, each);
        continue;
      }
      if (kind === 'piano') tape.piano(time, note, each, Math.max(0.3, length));
      if (kind === 'pluck') tape.pluck(time, note, each, Math.max(0.15, length));
      if (kind === 'organ') this.hum(time, length, note, each, 0.012, 0);
      if (kind === 'bow') this.hum(time, Math.max(0.12, length), note, each, this.is.slow ? 0.09 : 0.05, 0.004);
      if (kind === 'voice') this.hum(time, Math.max(0.12, length), note, each, 0.04, 0.012, 0.03);
    }
  }

  /** A tone that is held: comes in over `attack` seconds, trembles, glides to its pitch. */
  hum(time, length, note, loud, attack, tremble, glide = 0) {
    this.tape.note('note', time, loud);
    const f = 440 * 2 ** ((note - 69) / 12);
    let phase = 0;
    this.tape.add(time, length, (t) => {
      phase += (2 * Math.PI * f * (1 + tremble * Math.sin(34 * t) - glide * Math.exp(-t / 0.05))) / 44100;
      const wave =
        Math.sin(phase) +
        0.5 * Math.sin(2 * phase) +
        0.35 * Math.sin(3 * phase) +
        0.2 * Math.sin(4 * phase) +
        0.12 * Math.sin(6 * phase);
      return loud * 0.12 * wave * Math.min(1, t / attack) * Math.min(1, (length - t) / 0.03);
    });
  }

  mix() {
    const { tape } = this;
    if (tape.write) return;
    if (this.chance(0.35)) this.room(this.between(0.1, 0.45), this.between(0.3, 1.4));
    if (this.chance(0.15)) this.cover(this.pick([2500, 5000]));
    tape.level(0.8);
    if (this.chance(0.2)) tape.noise(this.between(0.002, 0.08));
    const level = this.random();
    if (level < 0.1) {
      tape.level(0.02);
      tape.noise(0.0005);
    } else if (level < 0.2) tape.level(this.between(1.5, 3.5));
    /** Kilobits a second it went through an encoder at; none for most. */
    this.codec = this.chance(0.25) ? this.pick([32, 48, 64]) : undefined;
  }

  /** Echoes that thin out: four combs of different lengths. */
  room(wet, seconds) {
    const { samples } = this.tape;
    const out = new Float64Array(samples.length);
    for (const length of [1557, 1617, 1491, 1422]) {
      const gain = 10 ** ((-3 * length) / 44100 / seconds);
      const line = new Float64Array(length);
      for (let i = 0; i < samples.length; i++) {
        const late = line[i % length];
        out[i] += late / 4;
        line[i % length] = samples[i] + gain * late;
      }
    }
    for (let i = 0; i < samples.length; i++) samples[i] += wet * out[i];
  }

  /** What is high is lost: one pole. */
  cover(hertz) {
    const { samples } = this.tape;
    const k = 1 - Math.exp((-2 * Math.PI * hertz) / 44100);
    let low = 0;
    for (let i = 0; i < samples.length; i++) samples[i] = low += (samples[i] - low) * k;
  }
}

/** One track: the tape it was played on, and its beats, first beats of bars and onsets in seconds. */
export function varied(style, seed, { seconds = SECONDS, tapeOf = (length, random) => new Tape(length, random) } = {}) {
  const track = new Varied(style, seed, seconds, tapeOf);
  track.play();
  const gaps = track.beats
    .slice(1)
    .map((b, i) => b - track.beats[i])
    .sort((a, b) => a - b);
  return {
    name: `${style} ${seed}`,
    style,
    tape: track.tape,
    codec: track.codec,
    beats: track.beats,
    downbeats: track.downbeats,
    meter: track.meter,
    tempo: 60 / gaps[gaps.length >> 1],
    onsets: track.tape.struck.map(({ time, kind }) => ({ time, kind })).sort((a, b) => a.time - b.time),
  };
}
