import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip } from '../edit/edit.js';
import { addSound } from '../edit/sounds.js';
import { NO_EFFECTS } from '../look/look.js';
import { ACCENT_KINDS, LOOKS, type AccentKind, type AccentLook } from '../look/looks.js';
import { type AccentSet, AMOUNT_WAYS } from '../model/accent.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { peaksOf } from '../sound/peaks.js';
import { easeCurve, NAMED_EASES } from '../time-map/ease.js';
import { accentTimes } from './accent-times.js';
import { amountAt, loudnessAmount } from './amount.js';
import { leaveOut, putAccents } from './edit-accents.js';
import { effectsOf } from './effects.js';
import { flickerSpots } from './flicker.js';
import { newAccents } from './new-accents.js';

const KINDS = ACCENT_KINDS.filter((kind) => LOOKS[kind].sustained);
const times = Array.from({ length: 40 }, (_, i) => 0.5 + i / 2);

/** Twenty seconds with a beat every 12 frames, from frame 12 on. */
function parade(...accents: readonly AccentSet[]): Project {
  const facts = { frames: 600, nativeRate: rate(24), readAs: rate(24), moments: [], droppedRepeats: null };
  const beats = { times, bar: { beats: 4, first: 0 } };
  const music = { id: 'm', footageId: 'march', name: 'march', startSeconds: 0, fromSeconds: 0, toSeconds: 20 };
  const heard = { ...music, gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, beats };
  const plain = addSound(addSource(emptyProject(rate(24)), { id: 's', name: 'bell', ...facts }), heard);
  return accents.reduce(putAccents, appendClip(plain, 'one', 's', 0, 479));
}
const set = (kind: AccentKind, from: number, to: number, look: Partial<AccentLook> = {}, id = 'a'): AccentSet => ({
  ...{ id, name: kind, strength: 1, on: { kind: 'range', from, to } },
  look: { ...LOOKS[kind].initial, ...look } as AccentLook,
});

describe('what goes on over a stretch', () => {
  test.each(KINDS)('%s does nothing outside it, something inside, and the same every time', (kind) => {
    const [one, again] = [0, 0].map(() => effectsOf(parade(set(kind, 100, 400))));
    for (const k of [0, 99, 400, 470]) expect(one!(k)).toBe(NO_EFFECTS);
    const inside = Array.from({ length: 300 }, (_, i) => one!(100 + i));
    expect(inside.filter((effects) => JSON.stringify(effects) !== JSON.stringify(NO_EFFECTS)).length).toBeGreaterThan(
      200,
    );
    inside.forEach((effects, i) => expect(again!(100 + i)).toEqual(effects));
  });

  test('words of a title come at once, one after another, or on cues and beats, and go together', () => {
    const shown = (words: string, cues: readonly number[] = []) => {
      const look = { text: 'three wooden marbles', words, frames: 4 } as Partial<AccentLook>;
      const project = parade(set('title', 96, 196, look));
      const at = effectsOf({
        ...project,
        reel: { ...project.reel, cues: cues.map((frame) => ({ id: `c${frame}`, frame, name: '', beat: null })) },
      });
      const titles = Array.from({ length: 120 }, (_, i) => at(90 + i).titles[0]?.words ?? [0, 0, 0]);
      titles.flat().forEach((amount) => expect(amount).toBeGreaterThanOrEqual(0));
      // The first frame each word is seen in, the first it is whole in, and the last anything is seen in.
      const first = [0, 1, 2].map((i) => 90 + titles.findIndex((each) => each[i]! > 0));
      const whole = [0, 1, 2].map((i) => 90 + titles.findIndex((each) => each[i]! === 1));
      expect(whole).toEqual(first.map((frame) => frame + 3));
      expect(90 + titles.findLastIndex((each) => each.some((amount) => amount > 0))).toBe(195);
      return first;
    };
    expect(shown('all at once')).toEqual([96, 96, 96]);
    expect(shown('one after another')).toEqual([96, 113, 129]);
    expect(shown('on cues', [50, 100, 140, 300])).toEqual([100, 140, 140]);
    expect(shown('on cues')).toEqual([96, 96, 96]);
    // A beat every twelve frames.
    expect(shown('on beats')).toEqual([96, 108, 120]);
  });

  test('an amount rises, falls or swells by its ease; without one it is even', () => {
    const even = set('flicker', 100, 300);
    expect([100, 200, 299].map((k) => amountAt(parade(even), even, k))).toEqual([1, 1, 1]);
    fc.assert(
      fc.property(
        fc.constantFrom(...AMOUNT_WAYS),
        fc.constantFrom(...NAMED_EASES),
        fc.integer({ min: 100, max: 299 }),
        (way, ease, k) => {
          const flicker = set('flicker', 100, 300, { frames: 1 });
          const share = amountAt(parade(flicker), { ...flicker, amount: { kind: 'eased', way, ease } }, k);
          const u = (k + 0.5 - 100) / 200;
          const wanted = easeCurve(ease).value({ rises: u, falls: 1 - u, swells: u < 0.5 ? 2 * u : 2 - 2 * u }[way]);
          expect(share).toBeCloseTo(wanted, 9);
        },
      ),
    );
  });

  test('an amount goes with the loudness of the music, also when the music is moved', () => {
    // A second of silence, one at a quarter, one at full swing, one of silence.
    const samples = Float32Array.from({ length: 4000 }, (_, i) => {
      const second = Math.floor(i / 1000);
      return [0, 0.25, 1, 0][second]! * (i % 2 === 0 ? 1 : -1);
    });
    const flicker = set('flicker', 0, 96, { frames: 1 });
    const project = parade(flicker);
    const [sound] = project.reel.sounds;
    const amount = loudnessAmount(sound!, peaksOf(samples, 1000));
    const at = (reel: Project, k: number) => amountAt(reel, { ...flicker, amount }, k);
    expect([12, 36, 60, 84].map((k) => Math.round(100 * at(project, k)) / 100)).toEqual([0, 0.44, 1, 0]);
    const moved = { ...project, reel: { ...project.reel, sounds: [{ ...sound!, startSeconds: 0.5 }] } };
    for (const k of [12, 24, 30, 36, 50, 60]) expect(at(moved, k + 12)).toBeCloseTo(at(project, k), 9);
    const kept = parade({ ...flicker, amount });
    expect(parseProject(JSON.parse(JSON.stringify(kept)))).toEqual(kept);
    expect(effectsOf(kept)(12)).toEqual(NO_EFFECTS);
    expect(() => loudnessAmount(sound!, new Int8Array(800))).toThrow(/nothing is heard in "march"/);
    expect(() => parade({ ...set('flash', 0, 1), on: { kind: 'cues', cueIds: [] }, amount })).toThrow(/over too soon/);
  });

  test.each(['shake', 'sway'] as const)('%s shows no edge, moves on, and comes and goes', (kind) => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 0.1, noNaN: true }),
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 1, max: 240 }),
        (size, k, frames) => {
          const { scale, x, y } = effectsOf(parade(set(kind, 50, 350, { size, frames })))(k);
          for (const off of [x, y]) {
            expect(Math.abs(off)).toBeLessThanOrEqual((scale - 1) / 2 + 1e-12);
            expect(Math.abs(off)).toBeLessThanOrEqual(size + 1e-12);
          }
        },
      ),
    );
    const at = effectsOf(parade(set(kind, 50, 350, { frames: 30 })));
    const most = (from: number, to: number) =>
      Math.max(...Array.from({ length: to - from }, (_, i) => Math.abs(at(from + i).x)));
    expect(most(50, 55)).toBeLessThan(0.25 * most(100, 300));
    expect(most(345, 350)).toBeLessThan(0.25 * most(100, 300));
  });

  test('one shake is not another', () => {
    const at = (id: string) => effectsOf(parade(set('shake', 0, 300, {}, id)));
    const [one, other] = [at('a'), at('b')];
    const same = Array.from({ length: 100 }, (_, i) => 100 + i).filter((k) => Math.abs(one(k).x - other(k).x) < 1e-6);
    expect(same.length).toBeLessThan(5);
  });

  test('a pulse is closest on the beats, and nothing where no music is', () => {
    const at = effectsOf(parade(set('pulse', 60, 200)));
    const scales = Array.from({ length: 140 }, (_, i) => at(60 + i).scale);
    scales.forEach((scale, i) => {
      const isBeat = (60 + i) % 12 === 0;
      if (isBeat) expect(scale).toBeCloseTo(1.04, 9);
      else expect(scale).toBeLessThan(scales[i - 1]!);
    });
    const silent = { ...parade(set('pulse', 60, 200)) };
    const quiet = effectsOf({ ...silent, reel: { ...silent.reel, sounds: [] } });
    expect(quiet(72).scale).toBe(1);
  });

  test.each([
    [1.2, 1, 1.2],
    [0.8, 1.25, 1],
  ])('an approach by %d goes from %d to %d, evenly one way', (scale, first, last) => {
    const at = effectsOf(parade(set('approach', 40, 340, { scale })));
    const scales = Array.from({ length: 300 }, (_, i) => at(40 + i).scale);
    expect(scales[0]).toBeCloseTo(first, 9);
    expect(scales.at(-1)).toBeCloseTo(last, 9);
    scales.slice(1).forEach((each, i) => {
      if (scale > 1) expect(each).toBeGreaterThanOrEqual(scales[i]!);
      else expect(each).toBeLessThanOrEqual(scales[i]!);
    });
  });

  test('light that flickers stays as bright as is said; where it dims too often and too much, that is found', () => {
    const at = effectsOf(parade(set('flicker', 0, 400, { depth: 0.3 })));
    for (let k = 0; k < 400; k++) expect(at(k).flash?.amount ?? 0).toBeLessThanOrEqual(0.3);
    expect(flickerSpots(parade(set('flicker', 0, 400, { depth: 0.09 })))).toEqual([]);
    const deep = ['a', 'b', 'c', 'd', 'e'].map((id) => set('flicker', 0, 470, { depth: 1 }, id));
    expect(flickerSpots(parade(...deep)).length).toBeGreaterThan(0);
  });

  test('it lies on a range alone, is read as it was written, and is taken off whole', () => {
    for (const kind of KINDS) {
      const project = parade(set(kind, 10, 90));
      expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(project);
      expect(accentTimes(project)).toMatchObject([{ frame: 10, frames: 80, lead: 0 }]);
      expect(leaveOut(project, accentTimes(project)[0]!).reel.accents).toEqual([]);
    }
    const wrong = (accents: AccentSet) => () => parade(accents);
    expect(wrong({ ...set('shake', 0, 10), on: { kind: 'cues', cueIds: [] } })).toThrow(
      /a shake goes on, so it lies on/,
    );
    expect(wrong({ ...set('flash', 0, 10) })).toThrow(/a flash falls on marks/);
    expect(wrong(set('sway', 40, 40))).toThrow(/40 to 40 is not a range/);
    const ranged = { ...parade(), reel: { ...parade().reel, range: { from: 24, to: 72 } } };
    expect(newAccents(ranged, 'sway', 'n').on).toEqual({ kind: 'range', from: 24, to: 72 });
    expect(newAccents(parade(), 'sway', 'n').on).toEqual({ kind: 'range', from: 0, to: 480 });
  });
});
