// A tape whose instruments are a synthesiser's: what is played on it becomes a MIDI file (`midi-file`) for fluidsynth.
import { writeFileSync } from 'node:fs';
import { writeMidi } from 'midi-file';
import { randomOf } from '../../demo/music/tape.mjs';

/** Ticks of a millisecond are fine enough: 500 a beat of half a second. */
const TICKS = 500;
const DRUMS = 9;

/** Programs of General MIDI that each of our instruments may be. */
const PROGRAMS = {
  bass: [32, 33, 34, 35, 36, 38, 39, 43, 58],
  piano: [0, 1, 4, 5, 6, 11, 12],
  pluck: [24, 25, 26, 27, 28, 45, 46, 104, 105, 80, 81],
  pad: [48, 49, 50, 89, 90, 91, 52],
  organ: [16, 17, 18, 21, 61, 62, 29, 30],
  bow: [40, 42, 48, 60, 71, 73],
  voice: [52, 53, 56, 65, 66, 73, 79, 22],
};
const KEYS = {
  kick: [35, 36],
  snare: [38, 40],
  clap: [39],
  rim: [37],
  hat: [42, 42, 44, 70, 69],
  open: [46],
  ride: [51, 59],
};

export class MidiTape {
  /** `kit` is the program of the drums. */
  constructor(seconds, seed, kit = 0) {
    this.kit = kit;
    this.samples = [];
    this.seconds = seconds;
    this.random = randomOf(seed);
    this.struck = [];
    this.events = [];
    this.channels = Object.fromEntries(Object.keys(PROGRAMS).map((name, i) => [name, i]));
    this.programs = Object.fromEntries(Object.entries(PROGRAMS).map(([name, list]) => [name, this.pick(list)]));
    this.keys = Object.fromEntries(Object.entries(KEYS).map(([name, list]) => [name, this.pick(list)]));
  }

  pick(list) {
    return list[Math.floor(this.random() * list.length)];
  }

  strike(kind, at, length, channel, key, loud) {
    this.struck.push({ time: at, kind, loud });
    const velocity = Math.max(8, Math.min(127, Math.round(96 * loud ** 0.6)));
    this.events.push({ at, channel, key, velocity }, { at: at + Math.max(0.03, length), channel, key, velocity: 0 });
  }

  kick(at, loud) {
    this.strike('kick', at, 0.1, DRUMS, this.keys.kick, loud);
  }

  snare(at, loud) {
    this.strike('snare', at, 0.1, DRUMS, this.keys.snare, loud);
  }

  clap(at, loud) {
    this.strike('snare', at, 0.1, DRUMS, this.keys.clap, loud);
  }

  rim(at, loud) {
    this.strike('snare', at, 0.1, DRUMS, this.keys.rim, loud);
  }

  hat(at, loud, { decay = 0.03 } = {}) {
    const key = decay > 0.055 ? (decay > 0.075 && decay < 0.085 ? this.keys.ride : this.keys.open) : this.keys.hat;
    this.strike('hat', at, 0.1, DRUMS, key, loud);
  }

  bass(at, length, note, loud) {
    this.strike('note', at, length, this.channels.bass, note, loud);
  }

  piano(at, note, loud, ring) {
    this.strike('note', at, ring, this.channels.piano, note, loud);
  }

  pluck(at, note, loud, length) {
    this.strike('note', at, length, this.channels.pluck, note, loud);
  }

  pad(at, length, notes, loud) {
    for (const note of notes) this.strike('note', at, length, this.channels.pad, note, loud * 0.6);
  }

  held(kind, at, length, note, loud) {
    this.strike('note', at, length, this.channels[kind], note, loud);
  }

  /** What is done to samples is not done here. */
  pump() {}

  noise() {}

  level() {
    return this;
  }

  write(file) {
    const track = [{ deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: 500_000 }];
    for (const [name, channel] of Object.entries(this.channels))
      track.push({ deltaTime: 0, type: 'programChange', channel, programNumber: this.programs[name] });
    if (this.kit > 0) track.push({ deltaTime: 0, type: 'programChange', channel: DRUMS, programNumber: this.kit });
    let tick = 0;
    for (const { at, channel, key, velocity } of this.events.sort((a, b) => a.at - b.at)) {
      const next = Math.max(tick, Math.round(at * 2 * TICKS));
      track.push({
        deltaTime: next - tick,
        type: velocity > 0 ? 'noteOn' : 'noteOff',
        channel,
        noteNumber: Math.max(0, Math.min(127, key)),
        velocity,
      });
      tick = next;
    }
    track.push({ deltaTime: 0, meta: true, type: 'endOfTrack' });
    writeFileSync(
      file,
      Buffer.from(writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat: TICKS }, tracks: [track] })),
    );
  }
}
