import { describe, expect, test } from '@jest/globals';
import {
  addSource,
  appendClip,
  setClipSound,
  setReachSound,
  splitClip,
  updateClip,
  withMap,
} from '@idle-bend/core/edit';
import { putTransition } from '@idle-bend/core/accent';
import { groupItems, insideGroup } from '@idle-bend/core/group';
import { putJoin } from '@idle-bend/core/join';
import { emptyProject, DEFAULT_JOIN, type Project } from '@idle-bend/core/model';
import { placeOf } from '@idle-bend/core/reel';
import { SOUND_RATE } from '@idle-bend/core/sound';
import { rate } from '@idle-bend/core/time';
import { reverseMap, setClipSpeed, freezeAt } from '@idle-bend/core/time-map';
import { ReelSound } from './reel-sound.js';
import { inMemory, type Stereo } from './sound-provider.js';

const { sin, PI, sqrt, abs, max } = Math;
const SECONDS = 10;
const source = {
  id: 's',
  name: 'bell',
  frames: 60 * SECONDS,
  nativeRate: rate(60),
  readAs: rate(60),
  moments: [],
  droppedRepeats: null,
};
const tone = (hertz: number) =>
  Float32Array.from({ length: SECONDS * SOUND_RATE }, (_, i) => 0.5 * sin((2 * PI * hertz * i) / SOUND_RATE));
/** Short knocks, twice a second. */
const knocks = Float32Array.from({ length: SECONDS * SOUND_RATE }, (_, i) => {
  const t = i % (SOUND_RATE / 2);
  return t < 240 ? sin((2 * PI * 2000 * t) / SOUND_RATE) * sin((PI * t) / 240) : 0;
});

function parade(change: (project: Project) => Project = (p) => p): Project {
  return change(appendClip(addSource(emptyProject(rate(24)), source), 'a', 's'));
}
const speed = (factor: number) => (p: Project) =>
  updateClip(p, 'a', (c) => withMap(c, setClipSpeed(c.map, factor, 2.5)));
const silent = new Float32Array(SECONDS * SOUND_RATE);
const soundOf = (project: Project, channel: Float32Array) =>
  new ReelSound(project, () => Promise.resolve(inMemory([channel, channel])));
async function heard(project: Project, channel: Float32Array, from = 0, to = Infinity): Promise<Float32Array> {
  const sound = soundOf(project, channel);
  return (await sound.read(from, Math.min(to, sound.length) - from))[0];
}
const decibels = (a: Float32Array) =>
  20 * Math.log10(max(1e-12, sqrt(a.reduce((sum, v) => sum + v * v, 0) / a.length)));
const most = (a: Float32Array) => a.reduce((m, v) => max(m, abs(v)), 0);

/** The strength of one frequency in a stretch, under a Blackman window, against a full-scale tone, dB. */
function lineAt(sound: Float32Array, hertz: number): number {
  let [re, im, whole] = [0, 0, 0];
  for (let i = 0; i < sound.length; i++) {
    const u = i / (sound.length - 1);
    const w = 0.42 - 0.5 * Math.cos(2 * PI * u) + 0.08 * Math.cos(4 * PI * u);
    re += w * sound[i]! * Math.cos((2 * PI * hertz * i) / SOUND_RATE);
    im += w * sound[i]! * sin((2 * PI * hertz * i) / SOUND_RATE);
    whole += w;
  }
  return 20 * Math.log10(max(1e-12, (2 * Math.hypot(re, im)) / whole));
}
/** How often it crosses zero upward in a second. */
const pitchOf = (sound: Float32Array) =>
  (sound.reduce((n, v, i) => n + (i > 0 && sound[i - 1]! < 0 && v >= 0 ? 1 : 0), 0) / sound.length) * SOUND_RATE;
/** Where its energy lies about a place, in samples. */
function centreNear(sound: Float32Array, at: number, around = 6000): number {
  let [sum, weighed] = [0, 0];
  for (let i = Math.round(at - around); i < at + around; i++) {
    const e = (sound[i] ?? 0) ** 2;
    sum += e;
    weighed += e * i;
  }
  return weighed / sum;
}

describe('a clip’s sound follows its picture', () => {
  test('with its pitch: half as fast sounds an octave lower, backward it is the other way round', async () => {
    expect(pitchOf((await heard(parade(speed(0.5)), tone(1000))).subarray(4800, 480_000))).toBeCloseTo(500, -1);
    const backward = await heard(
      parade((p) => updateClip(p, 'a', (c) => withMap(c, reverseMap(c.map)))),
      knocks,
    );
    // Frame k shows what frame N − 1 − k showed: the source's 597.5 first.
    const shift = (597.5 / 60) * SOUND_RATE;
    for (const k of [4, 9, 14])
      expect(abs(centreNear(backward, shift - (k * 24_000 + 120)) - (shift - (k * 24_000 + 120)))).toBeLessThan(5);
  });

  test('is in step within 5 ms at every speed, kept pitch or not', async () => {
    for (const mode of ['follow', 'keep'] as const)
      for (const factor of [0.4, 1, 2]) {
        const sound = await heard(setClipSound(parade(speed(factor)), 'a', { mode }), knocks, 0, 4 * SOUND_RATE);
        for (let k = 1; (k * 24_000 + 120) / factor < sound.length - 12_000; k++) {
          const due = (k * 24_000 + 120) / factor;
          expect(abs(centreNear(sound, due, 4800 / max(1, factor)) - due) / 48).toBeLessThan(5);
        }
      }
  });

  test('hours into a clip too', async () => {
    const hours = 3 * 3600;
    const long = { ...source, frames: 60 * hours };
    let project = appendClip(addSource(emptyProject(rate(24000, 1001)), long), 'a', 's');
    project = updateClip(project, 'a', (c) => withMap(c, setClipSpeed(c.map, 0.9, 60 / (24000 / 1001))));
    const second = 10_000;
    const provider = {
      read: (from: number, count: number): Promise<Stereo> =>
        Promise.resolve(
          [0, 1].map(() =>
            Float32Array.from({ length: count }, (_, i) => knocks[(from + i) % (SECONDS * SOUND_RATE)] ?? 0),
          ) as unknown as Stereo,
        ),
    };
    const from = Math.round(((second + 0.0025) / 0.9) * SOUND_RATE) - 12_000;
    const [sound] = await new ReelSound(project, () => Promise.resolve(provider)).read(from, 24_000);
    expect(abs(centreNear(sound, 12_000) - 12_000) / 48).toBeLessThan(0.5);
  });

  test('keeping its pitch, a tone stays where it is, with no line at the rate of the blocks', async () => {
    const sound = (await heard(setClipSound(parade(speed(0.5)), 'a', { mode: 'keep' }), tone(1000))).subarray(
      48_000,
      192_000,
    );
    expect(pitchOf(sound)).toBeCloseTo(1000, -1);
    const block = SOUND_RATE / 256;
    for (const off of [block, 2 * block, -block])
      expect(lineAt(sound, 1000 + off) - lineAt(sound, 1000)).toBeLessThan(-60);
  });

  test.each([0.2, 0.25, 0.4, 0.6, 1, 2, 4])(
    'keeping its pitch at %f of its speed, a steady tone stays as loud, within 1 dB, all along',
    async (factor) => {
      const sound = await heard(
        setClipSound(parade(speed(factor)), 'a', { mode: 'keep' }),
        tone(1000),
        0,
        6 * SOUND_RATE,
      );
      const inside = sound.subarray(SOUND_RATE / 2, sound.length - SOUND_RATE / 2);
      const loud = decibels(tone(1000));
      for (let i = 0; i + 4800 <= inside.length; i += 4800)
        expect(abs(decibels(inside.subarray(i, i + 4800)) - loud)).toBeLessThan(1);
      expect(pitchOf(inside)).toBeCloseTo(1000, -1);
    },
  );

  test('past the source’s end: looped it is heard again, held or black it is silent', async () => {
    const beyond = (end: 'loop' | 'hold' | 'black') => (p: Project) =>
      updateClip(p, 'a', (c) => ({
        ...c,
        end,
        map: {
          ...c.map,
          vertices: [
            { t: 0, s: 480 },
            { t: 96, s: 720 },
          ],
        },
      }));
    const [loop, hold, black] = await Promise.all(
      (['loop', 'hold', 'black'] as const).map((end) => heard(parade(beyond(end)), tone(1000))),
    );
    expect(loop!.length).toBe(4 * SOUND_RATE);
    const late = (sound: Float32Array) => decibels(sound.subarray(2.2 * SOUND_RATE, 3.9 * SOUND_RATE));
    expect(late(loop!)).toBeCloseTo(decibels(tone(1000)), 1);
    expect(late(hold!)).toBeLessThan(-100);
    expect(late(black!)).toBeLessThan(-100);
    expect(decibels(hold!.subarray(0, 1.9 * SOUND_RATE))).toBeCloseTo(decibels(tone(1000)), 1);
  });

  test('any stretch of it is the same sound as the whole', async () => {
    const project = parade(speed(0.7));
    const whole = await heard(project, tone(700));
    const part = await heard(project, tone(700), 100_001, 130_003);
    expect(part).toEqual(whole.subarray(100_001, 130_003));
  });
});

describe('freezes, reaches, loudness', () => {
  const frozen = (change: (p: Project) => Project = (p) => p) =>
    change(
      parade((p) =>
        updateClip(p, 'a', (c) => withMap(c, freezeAt(c.map, 96, 48, { widthFrames: 0, ease: 'soft' }).map)),
      ),
    );
  const [begins, ends] = [(97 / 24) * SOUND_RATE, (143 / 24) * SOUND_RATE];

  test('a freeze is silent, or the moment goes on; both without a click', async () => {
    const silent = await heard(frozen(), tone(1000));
    expect(most(silent.subarray(begins + 2000, ends - 2000))).toBe(0);
    const grain = await heard(
      frozen((p) => setClipSound(p, 'a', { freeze: 'grain' })),
      tone(1000),
    );
    const held = grain.subarray(begins + 9600, ends - 9600);
    expect(pitchOf(held)).toBeCloseTo(1000, -2);
    expect(decibels(held)).toBeGreaterThan(-20);
    // A tone of 1 kHz at half scale changes by 0.066 from sample to sample; a click would by more.
    for (const sound of [silent, grain])
      expect(most(sound.map((v, i) => (i === 0 ? 0 : v - sound[i - 1]!)))).toBeLessThan(0.09);
  });

  test('a reach may be heard its own way, and muting is silence', async () => {
    const muted = frozen((p) => setReachSound(p, 'a', 0, 'mute'));
    const sound = await heard(muted, tone(1000));
    expect(most(sound.subarray(0, begins - 4800))).toBe(0);
    expect(decibels(sound.subarray(ends + 9600, ends + 48_000))).toBeCloseTo(20 * Math.log10(0.5 / sqrt(2)), 1);
    expect(await soundOf(setClipSound(parade(), 'a', { mode: 'mute' }), tone(1000)).isSilent()).toBe(true);
  });

  test('gain and fades are those of the reel’s time', async () => {
    const sound = await heard(setClipSound(parade(speed(2)), 'a', { gainDb: -6, fadeInSeconds: 1 }), tone(300));
    expect(decibels(sound.subarray(60_000, 100_000))).toBeCloseTo(20 * Math.log10(0.5 / sqrt(2)) - 6, 1);
    expect(most(sound.subarray(0, 24_000))).toBeLessThan(0.5 * 0.5 * 0.55);
  });
});

describe('cuts, groups and joins', () => {
  test('a clip that is cut in two sounds as before: no jump at the cut above −60 dB', async () => {
    const whole = parade(speed(0.6));
    const cut = splitClip(whole, 'a', 101, 'b');
    const [one, two] = [await heard(whole, tone(440)), await heard(cut, tone(440))];
    expect(20 * Math.log10(most(one.subarray(0, 400_000).map((v, i) => v - two[i]!)))).toBeLessThan(-60);
  });

  test('a group sounds as what is in it does, along its own curve', async () => {
    const two = splitClip(parade(), 'a', 101, 'b');
    const bound = groupItems(two, ['a', 'b'], { clipId: 'g', sourceId: 'group', name: 'both' });
    const [one, other] = [await heard(two, tone(500)), await heard(bound, tone(500))];
    expect(decibels(one.subarray(9600, 300_000).map((v, i) => v - other[9600 + i]!))).toBeLessThan(-60);
    // Opened, it is heard as what is in it.
    expect(await heard(insideGroup(bound, 'group'), tone(500))).toEqual(one);
    const fast = updateClip(bound, 'g', (c) => withMap(c, setClipSpeed(c.map, 2, 1)));
    expect(pitchOf((await heard(fast, tone(500))).subarray(9600, 150_000))).toBeCloseTo(1000, -1);
  });

  test('a whoosh rises into the cut and falls out of it, louder and brighter where it is fast, the same every time', async () => {
    let project = appendClip(addSource(emptyProject(rate(24)), source), 'a', 's', 100, 399);
    project = setClipSound(setClipSound(appendClip(project, 'b', 's', 100, 399), 'a', { mode: 'mute' }), 'b', {
      mode: 'mute',
    });
    project = putJoin(
      project,
      'a',
      { ...DEFAULT_JOIN, into: 24, outOf: 24, peak: 3, whoosh: { gainDb: -12, tone: 0.5 } },
      'j',
    );
    const cut = (placeOf(project, 'b')!.start / 24) * SOUND_RATE;
    const sound = await heard(project, tone(1));
    const loud = [-44_000, -24_000, -4000, 4000, 24_000, 44_000].map((off) =>
      decibels(sound.subarray(cut + off - 2000, cut + off + 2000)),
    );
    expect(loud[0]!).toBeLessThan(loud[1]!);
    expect(loud[1]!).toBeLessThan(loud[2]!);
    expect(loud[3]!).toBeGreaterThan(loud[4]!);
    expect(loud[4]!).toBeGreaterThan(loud[5]!);
    expect(most(sound)).toBeLessThan(1);
    expect(Math.max(...loud)).toBeGreaterThan(-30);
    expect(pitchOf(sound.subarray(cut - 4000, cut + 4000))).toBeGreaterThan(
      1.5 * pitchOf(sound.subarray(cut - 40_000, cut - 30_000)),
    );
    expect(await heard(project, tone(1))).toEqual(sound);
    expect(most(sound.subarray(0, cut - 49_000))).toBe(0);
  });
});

test('over a dissolve both clips are heard, at a dip one after the other', async () => {
  const other = { ...source, id: 'o', name: 'chime' };
  const two = appendClip(
    addSource(appendClip(addSource(emptyProject(rate(24)), source), 'a', 's', 0, 299), other),
    'b',
    'o',
    120,
    419,
  );
  const lines = async (kind: 'dissolve' | 'dip' | undefined) => {
    const project = kind ? putTransition(two, ['b'], kind, 't') : two;
    const sound = new ReelSound(project, ({ id }) =>
      Promise.resolve(inMemory([tone(id === 's' ? 500 : 1300), silent])),
    );
    const cut = placeOf(project, 'b')!.start * (SOUND_RATE / 24);
    const at = async (from: number) => {
      const [left] = await sound.read(cut + from, 2000);
      return [500, 1300].map((hertz) => Math.round(lineAt(left, hertz)));
    };
    // Six frames of 2000 samples lie on either side of a dissolve, eight of a dip.
    return [await at(-17_000), await at(-7_000), await at(-1000), await at(5_000), await at(16_000)];
  };
  const [full, none] = [-6, -80];
  const hard = await lines(undefined);
  expect(hard[1]![0]).toBe(full);
  expect(hard[1]![1]).toBeLessThan(none);
  expect(hard[3]![0]).toBeLessThan(none);

  const [before, early, middle, late, after] = await lines('dissolve');
  expect([before![0], after![1]]).toEqual([full, full]);
  expect([before![1]! < none, after![0]! < none]).toEqual([true, true]);
  // As loud together as one alone: each 3 dB down in the middle.
  expect(middle).toEqual([full - 3, full - 3]);
  expect(early![0]! > middle![0]! && early![1]! < middle![1]! && early![1]! > none).toBe(true);
  expect(late![1]! > middle![1]! && late![0]! < middle![0]! && late![0]! > none).toBe(true);

  const dip = await lines('dip');
  expect(dip[1]![0]).toBeLessThan(full);
  expect(dip[1]![1]).toBeLessThan(none);
  expect(dip[3]![0]).toBeLessThan(none);
  expect(dip[3]![1]).toBeLessThan(full);
});
