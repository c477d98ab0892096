// A tape that drawn instruments play on: one channel of samples, and a list of what was struck when.
import { writeFile } from 'node:fs/promises';

const RATE = 44100;

/** Numbers 0…1 that are the same for the same seed (mulberry32). */
export function randomOf(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const midiHertz = (note) => 440 * 2 ** ((note - 69) / 12);

export class Tape {
  constructor(seconds, seed = 1) {
    this.samples = new Float64Array(Math.ceil(seconds * RATE));
    this.random = randomOf(seed);
    /** What was struck: seconds, kind (kick, snare, hat or note), how loud. */
    this.struck = [];
  }

  /** Adds `length` seconds of `wave(t, n)` from `at` seconds on. */
  add(at, length, wave) {
    const start = Math.round(at * RATE);
    const end = Math.min(this.samples.length, start + Math.round(length * RATE));
    for (let i = Math.max(0, start); i < end; i++) this.samples[i] += wave((i - start) / RATE, i - start);
  }

  note(kind, at, loud) {
    this.struck.push({ time: Math.round(at * RATE) / RATE, kind, loud });
  }

  kick(at, loud = 1, { low = 48, sweep = 110, decay = 0.16 } = {}) {
    this.note('kick', at, loud);
    let phase = 0;
    this.add(at, decay * 4, (t) => {
      phase += (low + sweep * Math.exp(-t / 0.025)) / RATE;
      return (
        loud * 0.85 * Math.sin(2 * Math.PI * phase) * Math.exp(-t / decay) * Math.min(1, t / 0.001) +
        loud * 0.12 * (this.random() - 0.5) * Math.exp(-t / 0.003)
      );
    });
  }

  snare(at, loud = 1, { tone = 190, decay = 0.09 } = {}) {
    this.note('snare', at, loud);
    let [slow, last] = [0, 0];
    this.add(at, decay * 5, (t) => {
      const noise = this.random() * 2 - 1;
      slow += (noise - slow) * 0.45;
      const band = slow - last;
      last += (slow - last) * 0.08;
      return (
        loud *
        (0.5 * band * Math.exp(-t / decay) + 0.28 * Math.sin(2 * Math.PI * tone * t) * Math.exp(-t / 0.06)) *
        Math.min(1, t / 0.0007)
      );
    });
  }

  hat(at, loud = 1, { decay = 0.028 } = {}) {
    this.note('hat', at, loud);
    let [a, b] = [0, 0];
    this.add(at, decay * 6, (t) => {
      const noise = this.random() * 2 - 1;
      // Two differences leave what is high.
      const first = noise - a;
      a = noise;
      const second = first - b;
      b = first;
      return loud * 0.09 * second * Math.exp(-t / decay) * Math.min(1, t / 0.0005);
    });
  }

  bass(at, length, note, loud = 1) {
    this.note('note', at, loud);
    const f = midiHertz(note);
    let low = 0;
    this.add(at, length, (t) => {
      const saw = 2 * ((f * t) % 1) - 1;
      low += (saw - low) * Math.min(1, 0.05 + 0.1 * Math.exp(-t / 0.08));
      return loud * 0.5 * low * Math.min(1, t / 0.004) * Math.min(1, (length - t) / 0.02);
    });
  }

  /** A struck string: partials that fade the sooner the higher. */
  piano(at, note, loud = 1, ring = 1.2) {
    this.note('note', at, loud);
    const f = midiHertz(note);
    this.add(at, ring * 2, (t) => {
      let sum = 0;
      for (let h = 1; h <= 6; h++)
        sum +=
          (Math.sin(2 * Math.PI * f * h * (1 + 0.0004 * h * h) * t) / h ** 1.3) *
          Math.exp((-t * (0.7 + 0.5 * h)) / ring);
      return loud * 0.24 * sum * Math.min(1, t / 0.002);
    });
  }

  /** A plucked tune: bright at first. */
  pluck(at, note, loud = 1, length = 0.35) {
    this.note('note', at, loud);
    const f = midiHertz(note);
    let low = 0;
    this.add(at, length, (t) => {
      const square = ((f * t) % 1 < 0.5 ? 1 : -1) + ((f * 1.004 * t) % 1 < 0.5 ? 1 : -1);
      low += (square - low) * (0.08 + 0.5 * Math.exp(-t / 0.06));
      return (
        loud * 0.14 * low * Math.exp(-t / (length * 0.4)) * Math.min(1, t / 0.002) * Math.min(1, (length - t) / 0.01)
      );
    });
  }

  /** Held voices that come in softly; not struck. */
  pad(at, length, notes, loud = 1, attack = 0.25) {
    for (const note of notes) {
      const f = midiHertz(note);
      const drift = 1 + (this.random() - 0.5) * 0.004;
      this.add(
        at,
        length,
        (t) =>
          loud *
          0.06 *
          (Math.sin(2 * Math.PI * f * t) +
            0.5 * Math.sin(4 * Math.PI * f * drift * t) +
            0.25 * Math.sin(6 * Math.PI * f * t)) *
          Math.min(1, t / attack) *
          Math.min(1, (length - t) / 0.15),
      );
    }
  }

  noise(loud) {
    for (let i = 0; i < this.samples.length; i++) this.samples[i] += loud * (this.random() * 2 - 1);
  }

  /** Presses everything so far down at each of the times, as a kick does through a compressor. */
  pump(times, depth, recover) {
    for (const at of times) this.duck(at, depth, recover);
  }

  duck(at, depth, recover) {
    const start = Math.round(at * RATE);
    const end = Math.min(this.samples.length, start + Math.round(recover * RATE));
    for (let i = Math.max(0, start); i < end; i++)
      this.samples[i] *= 1 - depth * (1 - (i - start) / (recover * RATE)) ** 2;
  }

  /** The loudest sample becomes `peak`; above 1 it is clipped. */
  level(peak) {
    let most = 1e-9;
    for (const s of this.samples) most = Math.max(most, Math.abs(s));
    for (let i = 0; i < this.samples.length; i++)
      this.samples[i] = Math.max(-1, Math.min(1, (this.samples[i] * peak) / most));
    return this;
  }
}

/** Writes one channel as a 16-bit WAV. */
export async function writeWav(file, samples, rate = RATE) {
  await writeFile(file, wavOf(samples, rate));
}

/** The bytes of one channel as a 16-bit WAV. */
export function wavOf(samples, rate = RATE) {
  const bytes = Buffer.alloc(44 + samples.length * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + samples.length * 2, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(rate, 24);
  bytes.writeUInt32LE(rate * 2, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(samples.length * 2, 40);
  samples.forEach((s, i) => bytes.writeInt16LE(Math.round(Math.max(-1, Math.min(1, s)) * 32767), 44 + i * 2));
  return bytes;
}
