import { NO_EFFECTS } from '../look/look.js';
import { LOOKS, type AccentKind } from '../look/looks.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addCue, addSource, appendClip, removeCue, updateCue } from '../edit/edit.js';
import { addSound, updateSound } from '../edit/sounds.js';
import { type AccentPlaces, type AccentSet } from '../model/accent.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { placeOf } from '../reel/places.js';
import { rate } from '../time/rate.js';
import { leaveOut, putAccents, removeAccents } from './edit-accents.js';
import { effectsOf } from './effects.js';
import { flickerSpots } from './flicker.js';
import { accentTimes } from './accent-times.js';
import { accentsName, newAccents } from './new-accents.js';

const source = {
  id: 's',
  name: 'bell',
  frames: 600,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
};

/** 120 beats a minute in fours, from half a second on: 12 frames apart. */
const times = Array.from({ length: 40 }, (_, i) => 0.5 + i / 2);

const music = {
  id: 'm',
  footageId: 'march',
  name: 'march',
  startSeconds: 0,
  fromSeconds: 0,
  toSeconds: 20,
  gainDb: 0,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  beats: { times, bar: { beats: 4, first: 0 } },
};

const on = (change: object = {}): AccentPlaces => ({
  kind: 'music',
  soundId: 'm',
  of: 'beats',
  every: 1,
  first: 0,
  least: 0,
  from: null,
  to: null,
  hits: [],
  without: [],
  ...change,
});

const set = (kind: AccentKind, places: AccentPlaces, change: Partial<AccentSet> = {}): AccentSet => ({
  id: 'a',
  name: kind,
  look: LOOKS[kind].initial,
  strength: 1,
  on: places,
  ...change,
});

function parade(accents: readonly AccentSet[]): Project {
  let project = addSound(addSource(emptyProject(rate(24)), source), music);
  for (const id of ['one', 'two']) project = appendClip(project, id, 's', 0, 239);
  return accents.reduce(putAccents, project);
}

const frames = (project: Project) => accentTimes(project).map(({ frame }) => frame);

describe('where accents fall', () => {
  test('on beats, first beats of bars, or hits that were heard; every second, from the second on, within a part', () => {
    expect(frames(parade([set('flash', on())])).slice(0, 4)).toEqual([12, 24, 36, 48]);
    expect(frames(parade([set('flash', on({ of: 'bars' }))])).slice(0, 3)).toEqual([12, 60, 108]);
    expect(frames(parade([set('flash', on({ every: 2, first: 1 }))])).slice(0, 3)).toEqual([24, 48, 72]);
    expect(frames(parade([set('flash', on({ of: 'high', hits: [1, 1.25, 1.5, 3] }))]))).toEqual([24, 30, 36, 72]);
    expect(frames(parade([set('flash', on({ from: 1, to: 2 }))]))).toEqual([24, 36, 48]);
  });

  test('they go with the music, with their cues and with the cuts', () => {
    const moved = updateSound(parade([set('punch', on())]), 'm', { startSeconds: 0.25 });
    expect(frames(moved)[0]).toBe(18);
    const cued = putAccents(
      addCue(parade([]), { id: 'q', frame: 50.4, name: 'hit' }),
      set('knock', { kind: 'cues', cueIds: ['q'] }),
    );
    expect(frames(cued)).toEqual([50]);
    expect(frames(updateCue(cued, 'q', { frame: 70 }))).toEqual([70]);
    expect(frames(removeCue(cued, 'q'))).toEqual([]);
    expect(frames(parade([set('push', { kind: 'cuts', clipIds: ['two'] })]))).toEqual([
      placeOf(parade([]), 'two')!.start,
    ]);
  });

  test('one may be left out; a set is changed in its place and taken off', () => {
    const project = parade([set('flash', on())]);
    const without = leaveOut(project, accentTimes(project)[1]!);
    expect(frames(without).slice(0, 3)).toEqual([12, 36, 48]);
    expect(frames(putAccents(without, set('flash', on({ every: 2 }))))[1]).toBe(36);
    expect(removeAccents(without, 'a').reel.accents).toEqual([]);
    expect(parseProject(JSON.parse(JSON.stringify(without)))).toEqual(without);
  });

  test('what cannot be is refused by name', () => {
    const put = (accents: AccentSet) => () => parade([accents]);
    expect(put(set('push', on()))).toThrow(/a push goes from clip to clip/);
    expect(put(set('flash', on(), { strength: 2 }))).toThrow(/accents.strength/);
    expect(put(set('flash', on(), { look: { kind: 'flash', frames: 0, colour: 'white', falls: true } }))).toThrow(
      /look.frames/,
    );
    expect(put(set('flash', on(), { look: { kind: 'flash', frames: 2, colour: '#12', falls: true } }))).toThrow(
      /"#12" is not a colour/,
    );
    expect(put(set('flash', on({ every: 2, first: 2 })))).toThrow(/on.first/);
  });
});

describe('what they do', () => {
  const at = (accents: AccentSet) => effectsOf(parade([accents]));
  test('a flash is whole on its frame and falls off; a punch is closest there and settles; a stutter holds its frame', () => {
    const flash = at(set('flash', on(), { look: { kind: 'flash', frames: 4, colour: 'white', falls: true } }));
    expect([11, 12, 13, 14, 15, 16].map((k) => flash(k).flash?.amount)).toEqual([
      undefined,
      1,
      0.75,
      0.5,
      0.25,
      undefined,
    ]);
    const punch = [12, 13, 16, 19, 20].map((k) => at(set('punch', on()))(k).scale);
    expect(punch[0]).toBeCloseTo(1.12, 9);
    for (let i = 1; i < punch.length; i++) expect(punch[i]!).toBeLessThan(punch[i - 1]!);
    expect(punch.at(-1)).toBe(1);
    expect([11, 12, 13, 14, 15].map((k) => at(set('stutter', on()))(k).held)).toEqual([
      undefined,
      12,
      12,
      12,
      undefined,
    ]);
    expect(at(set('flash', on()))(0)).toBe(NO_EFFECTS);
  });

  test('a knock never shows an edge: it is closer by more than it is moved', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60 }), fc.double({ min: 0, max: 0.25, noNaN: true }), (k, size) => {
        const { scale, x, y } = at(set('knock', on(), { look: { kind: 'knock', frames: 8, size } }))(k);
        for (const off of [x, y]) expect(Math.abs(off)).toBeLessThanOrEqual((scale - 1) / 2 + 1e-12);
      }),
    );
  });

  test('a push comes from nothing to whole about its cut, fastest in the middle', () => {
    const push = at(set('push', { kind: 'cuts', clipIds: ['two'] }));
    const come = Array.from({ length: 12 }, (_, i) => push(234 + i).across?.come);
    expect([come[0], come.at(-1)]).toEqual([undefined, undefined]);
    expect(come[1]!).toBeLessThan(0.02);
    expect(come[10]!).toBeGreaterThan(0.98);
    expect((come[5]! + come[6]!) / 2).toBeCloseTo(0.5, 9);
    expect(push(239).across!.pace).toBeGreaterThan(push(236).across!.pace);
  });
});

describe('the flicker guard', () => {
  const flashes = (seconds: readonly number[], change: Partial<AccentSet> = {}) =>
    parade([set('flash', on({ of: 'high', hits: [...seconds] }), change)]);
  test('three flashes in a second are allowed, a fourth is not', () => {
    expect(flickerSpots(flashes([1, 1.3, 1.6, 2]))).toEqual([]);
    expect(flickerSpots(flashes([1, 1.3, 1.6, 1.9]))).toEqual([{ from: 24, to: 46, flashes: 4 }]);
    expect(flickerSpots(flashes([1, 1.3, 1.6, 1.9], { strength: 0.05 }))).toEqual([]);
    expect(flickerSpots(parade([set('punch', on({ of: 'high', hits: [1, 1.1, 1.2, 1.3] }))]))).toEqual([]);
  });
  test('agrees with counting every second of the reel', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 200 }), { maxLength: 30 }), (hits) => {
        const project = flashes(hits.map((n) => n / 24).sort((a, b) => a - b));
        const most = Math.max(0, ...hits.map((from) => hits.filter((n) => n >= from && n < from + 24).length));
        expect(Math.max(0, ...flickerSpots(project).map((spot) => spot.flashes))).toBe(most > 3 ? most : 0);
      }),
    );
  });
});

describe('a new set', () => {
  test('falls on bars of the music, without music on the cues, and across cuts if that is what it does', () => {
    expect(frames(putAccents(parade([]), newAccents(parade([]), 'flash', 'n'))).slice(0, 2)).toEqual([12, 60]);
    const push = newAccents(parade([]), 'push', 'n');
    expect(push.on).toEqual({ kind: 'cuts', clipIds: ['two'] });
    const silent = addCue(addSource(emptyProject(rate(24)), source), { id: 'q', frame: 7, name: '' });
    expect(newAccents(silent, 'punch', 'n').on).toEqual({ kind: 'cues', cueIds: ['q'] });
  });

  test('is called by what it does and where', () => {
    expect(accentsName(set('flash', on({ of: 'high', every: 2 })))).toBe('flash on hats, 1 in 2');
    expect(accentsName(set('knock', { kind: 'cues', cueIds: [] }))).toBe('knock on cues');
    expect(accentsName(set('push', { kind: 'cuts', clipIds: [] }))).toBe('push at cuts');
  });
});

test('of two flashes on one frame the stronger is seen, whichever comes first', () => {
  const flashes = [1, 0.3].map((strength, i) => set('flash', on(), { id: `f${i}`, strength }));
  const amount = (sets: readonly AccentSet[]) => effectsOf(parade(sets))(12).flash!.amount;
  expect(amount(flashes)).toBeCloseTo(amount([flashes[0]!]), 12);
  expect(amount(flashes.toReversed())).toBeCloseTo(amount([flashes[0]!]), 12);
  expect(amount([flashes[1]!])).toBeLessThan(amount([flashes[0]!]));
});
