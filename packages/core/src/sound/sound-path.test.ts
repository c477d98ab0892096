import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, setClipSound, setReachSound, splitClip, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { OWN_SOUND, readClipSound } from '../model/clip-sound.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { type PlacedItem, placeOf } from '../reel/places.js';
import { setClipSpeed } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { HARD } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { SOUND_RATE } from './resample.js';
import { CROSSED, soundPath } from './sound-path.js';

const source = {
  id: 's',
  name: 'bell',
  frames: 600,
  nativeRate: rate(60),
  readAs: rate(60),
  moments: [],
  droppedRepeats: null,
};

const parade = (): Project => appendClip(addSource(emptyProject(rate(24)), source), 'c', 's');

const path = (project: Project, id = 'c') => {
  const place = placeOf(project, id)!;
  return soundPath(project, place.item as Clip, place.frames);
};

describe('the way of a clip’s sound', () => {
  test('is that of its picture: the second a source frame lasts from, at every frame of any curve', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.integer({ min: 0, max: 40 }), (map, k) => {
        const project = updateClip(parade(), 'c', (clip) => withMap(clip, map));
        const { position } = path(project);
        expect(position((k / 24) * SOUND_RATE) / SOUND_RATE).toBeCloseTo(
          Math.min(Math.max(positionAt(map, k), 0), 600) / 60,
          6,
        );
      }),
    );
  });

  test('runs at the file’s own rate, whatever its pictures are read as', () => {
    const slow = { ...parade(), sources: [{ ...source, readAs: rate(24) }] };
    const { rate: passed } = path(updateClip(slow, 'c', (clip) => withMap(clip, setClipSpeed(clip.map, 1, 1))));
    expect(passed(1000)).toBeCloseTo(24 / 60, 9);
  });

  test('where a clip is cut in two both together are as loud as it was, sample by sample', () => {
    const cut = splitClip(parade(), 'c', 60, 'd');
    const [one, two] = [path(cut), path(cut, 'd')];
    for (let i = 0; i <= CROSSED * SOUND_RATE; i++)
      expect(one.shares(one.length + i).follow + two.shares(i).follow).toBeCloseTo(1, 9);
    expect(one.shares(one.length + CROSSED * SOUND_RATE + 1)).toEqual({ follow: 0, keep: 0 });
  });

  test('drawn out, a crossing is as loud all the way through, and begins before its clip', () => {
    const cut = splitClip(parade(), 'c', 60, 'd');
    const [one, two] = ['c', 'd'].map((id) => placeOf(cut, id)!) as [PlacedItem, PlacedItem];
    const before = { before: 0, after: 5, comes: 0, goes: 12 };
    const goes = soundPath(cut, one.item as Clip, one.frames, before);
    const comes = soundPath(cut, two.item as Clip, two.frames, { before: 7, after: 0, comes: 12, goes: 0 });
    const perFrame = SOUND_RATE / 24;
    expect([goes.length, comes.length]).toEqual([(one.frames + 5) * perFrame, (two.frames + 7) * perFrame]);
    // Both are of the same file, cut where the first ends: they pass it together.
    const lead = (one.frames - 7) * perFrame;
    for (let i = 0; i <= 12 * perFrame; i += 100) {
      const [a, b] = [goes.shares(lead + i).follow, comes.shares(i).follow];
      expect(a ** 2 + b ** 2).toBeCloseTo(1, 9);
      expect(comes.position(i)).toBeCloseTo(goes.position(lead + i), 6);
    }
    expect(goes.shares(goes.length + 1).follow).toBe(0);
  });

  test('from one way to another it goes over a hundredth of a second, never louder than whole', () => {
    const halves = {
      vertices: [
        { t: 0, s: 0 },
        { t: 48, s: 120 },
        { t: 96, s: 180 },
      ],
      bends: [HARD, HARD, HARD],
    };
    const project = setReachSound(
      updateClip(parade(), 'c', (clip) => withMap(clip, halves)),
      'c',
      1,
      'keep',
    );
    const { shares } = path(project);
    const at = (second: number) => shares(second * SOUND_RATE);
    expect([at(1), at(3)]).toEqual([
      { follow: 1, keep: 0 },
      { follow: 0, keep: 1 },
    ]);
    for (let ms = -8; ms <= 8; ms++) {
      const { follow, keep } = at(2 + ms / 1000);
      expect(follow + keep).toBeCloseTo(1, 6);
      if (Math.abs(ms) < 4) expect(Math.min(follow, keep)).toBeGreaterThan(0);
    }
  });

  test('a freeze is silent or goes on, a creep fades with its pitch, fades are straight', () => {
    const still = {
      vertices: [
        { t: 0, s: 0 },
        { t: 48, s: 120 },
        { t: 96, s: 120 },
        { t: 144, s: 121 },
      ],
      bends: [HARD, HARD, HARD, HARD],
    };
    const frozen = updateClip(parade(), 'c', (clip) => withMap(clip, still));
    expect(path(frozen).shares(3 * SOUND_RATE)).toEqual({ follow: 0, keep: 0 });
    expect(path(setClipSound(frozen, 'c', { freeze: 'grain' })).shares(3 * SOUND_RATE)).toEqual({ follow: 0, keep: 1 });
    const creep = path(frozen).shares(5 * SOUND_RATE).follow;
    expect(creep).toBeGreaterThan(0);
    expect(creep).toBeLessThan(0.6);
    const faded = path(setClipSound(parade(), 'c', { fadeInSeconds: 2, gainDb: -20 }));
    expect(faded.shares(SOUND_RATE).follow).toBeCloseTo(0.05, 6);
  });

  test('what a document says of it is read, or refused by name', () => {
    const sound = { ...OWN_SOUND, mode: 'keep' as const, reaches: [{ reach: 1, mode: 'mute' as const }] };
    expect(readClipSound(JSON.parse(JSON.stringify(sound)), 'sound', 3)).toEqual(sound);
    expect(() => readClipSound({ ...sound, mode: 'loud' }, 'sound', 3)).toThrow(/sound.mode/);
    expect(() => readClipSound({ ...sound, gainDb: 99 }, 'sound', 3)).toThrow(/sound.gainDb.*99 dB/);
    expect(() => readClipSound(sound, 'sound', 1)).toThrow(/sound.reaches/);
    expect(() => setClipSound(parade(), 'c', { fadeInSeconds: -1 })).toThrow(/sound.fadeIn/);
  });
});
