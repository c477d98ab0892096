import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { insertGap } from '../edit/reel-edit.js';
import { MAX_LOOK_FRAMES } from '../look/look.js';
import { ACCENT_KINDS, LOOKS, spanOf, type AccentKind, type AccentLook } from '../look/looks.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { placeItems, placeOf } from '../reel/places.js';
import { withMap } from '../reel/with-map.js';
import { resolveReel } from '../resolve/resolve-frames.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { rate } from '../time/rate.js';
import { accentTimes } from './accent-times.js';
import { crossingsOf } from './crossings.js';
import { leaveOut, pullTransition, putAccents, putTransition, transitionInto } from './edit-accents.js';
import { effectsOf } from './effects.js';
import { flickerSpots } from './flicker.js';
import { whipLine } from './whip-line.js';

const source = {
  id: 's',
  name: 's',
  frames: 600,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
};
/** Clips of those source frames, first and last. */
const parade = (...parts: readonly (readonly [number, number])[]): Project =>
  parts.reduce(
    (project, [first, last], i) => appendClip(project, `c${i}`, 's', first, last),
    addSource(emptyProject(rate(24)), source),
  );
const KINDS = ACCENT_KINDS.filter((kind) => LOOKS[kind].acrossCuts);
const RUN_ON = KINDS.filter((kind) => LOOKS[kind].runsOn);
const put = (project: Project, kind: AccentKind, clipId = 'c1') => putTransition(project, [clipId], kind, kind);
const spans = (project: Project) => accentTimes(project).map(({ frame, lead, frames }) => [frame, lead, frames]);

describe('a transition', () => {
  test('a whip lies along the line the pictures move, whichever way round, the faster counting for more', () => {
    const pan = (degrees: number, perFrame: number): SourceMotion => {
      const [x, y] = [Math.cos, Math.sin].map((of) => perFrame * of((degrees * Math.PI) / 180)) as [number, number];
      const camera = { x, y, push: 0, roll: 0, sure: 0.9 };
      return {
        pairs: Array.from({ length: 599 }, () => ({ confidence: 1, exposure: 0, camera })),
        across: new Map(),
      };
    };
    const project = put(parade([100, 199], [300, 399]), 'whip');
    const [set] = project.reel.accents;
    fc.assert(
      fc.property(fc.integer({ min: -89, max: 90 }), fc.boolean(), (degrees, isTurned) => {
        const found = whipLine(project, set!, new Map([['s', pan(degrees + (isTurned ? 180 : 0), 0.02)]]))!;
        expect(((found - degrees) % 180) + 0).toBe(0);
        expect(Math.abs(found)).toBeLessThanOrEqual(90);
      }),
    );
    const other = { ...source, id: 'o', name: 'o' };
    const both = put(appendClip(addSource(parade([100, 199]), other), 'c1', 'o', 300, 399), 'whip');
    const motions = (one: number, two: number) =>
      new Map([
        ['s', pan(0, one)],
        ['o', pan(90, two)],
      ]);
    expect(whipLine(both, both.reel.accents[0]!, motions(0.03, 0.01))).toBe(0);
    expect(Math.abs(whipLine(both, both.reel.accents[0]!, motions(0.01, 0.03))!)).toBe(90);
    expect(whipLine(both, both.reel.accents[0]!, new Map())).toBeUndefined();
  });

  test('pulled at an end is as long there as it was pulled, and as it was at the other; a push is half before its cut', () => {
    for (const kind of KINDS) {
      const project = put(parade([100, 199], [300, 399]), kind);
      const [set] = project.reel.accents;
      const { lead, frames } = spanOf(set!.look);
      for (const [end, n] of [
        ['from', 0],
        ['from', 9],
        ['to', 1],
        ['to', 21],
      ] as const) {
        if (end === 'from' && n === 0 && kind === 'push') continue;
        const { look } = pullTransition(set!, end, n);
        const now = spanOf(look);
        const tail = now.frames - now.lead;
        expect([kind, end, end === 'from' ? now.lead : tail]).toEqual([kind, end, n]);
        if (kind === 'push') expect(now.frames).toBe(2 * n);
        else expect(end === 'from' ? tail : now.lead).toBe(end === 'from' ? frames - lead : lead);
        expect(() => putAccents(project, pullTransition(set!, end, n))).not.toThrow();
      }
      expect(spanOf(pullTransition(set!, 'to', 10_000).look).frames).toBe(MAX_LOOK_FRAMES);
    }
  });

  test.each(KINDS)('%s lies about its cut, and comes evenly or gently from nothing to whole', (kind) => {
    const project = put(parade([100, 199], [300, 399]), kind);
    const { frames } = LOOKS[kind].initial;
    const [[cut, lead, length]] = spans(project) as [number[]];
    expect([cut, length]).toEqual([100, frames]);
    expect(lead).toBe(frames / 2);
    const at = effectsOf(project);
    const about = Array.from({ length: frames + 2 }, (_, i) => at(cut! - lead! - 1 + i));
    for (const outside of [about[0], about.at(-1)])
      expect(outside).toMatchObject({ across: undefined, flash: undefined, streak: undefined });
    const inside = about.slice(1, -1);
    const strength = inside.map(({ across, flash, streak }) => across?.come ?? flash?.amount ?? streak!.share);
    if (inside[0]!.across) {
      strength.forEach((come, i) => expect(come).toBeGreaterThan(i === 0 ? 0 : strength[i - 1]!));
      expect(strength.at(-1)).toBeLessThan(1);
      expect(strength[0]).toBeLessThan(0.1);
    } else {
      // The same on both sides, most beside the cut.
      expect(strength).toEqual(strength.toReversed());
      expect(Math.max(...strength)).toBe(strength[lead! - 1]);
    }
  });

  test('some of it, or all, may lie before the cut', () => {
    const project = put(parade([100, 199], [300, 399]), 'dissolve');
    const before = (share: number) => {
      const [set] = project.reel.accents;
      return spans(putAccents(project, { ...set!, look: { ...LOOKS.dissolve.initial, before: share } }))[0];
    };
    expect([before(0), before(0.25), before(1)]).toEqual([
      [100, 0, 12],
      [100, 3, 12],
      [100, 12, 12],
    ]);
  });

  test('is as short as source is left, and as half a clip; black has no end, and what needs no source takes none', () => {
    // The first clip has 4 frames after its end, the second 3 before its beginning.
    const tight = parade([500, 595], [3, 99]);
    expect(spans(put(tight, 'dissolve'))).toEqual([[96, 3, 7]]);
    expect(spans(put(tight, 'dip'))).toEqual([[96, 8, 16]]);
    expect(spans(put(parade([0, 599], [0, 599]), 'turn'))).toEqual([[600, 0, 0]]);
    expect(effectsOf(put(parade([0, 599], [0, 599]), 'turn'))(600).across).toBeUndefined();
    expect(spans(put(parade([100, 104], [300, 302]), 'slide'))).toEqual([[5, 2, 3]]);
    const gap = insertGap(parade([0, 99], [50, 149]), 1, 'gap', 40);
    expect(spans(put(gap, 'dissolve'))).toEqual([[140, 6, 12]]);
  });

  test.each(RUN_ON)('%s shows no frame that a source does not have, whatever the curves', (kind) => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (one, two, before) => {
        const bent = (project: Project, id: string, map: typeof one) =>
          updateClip(project, id, (clip) => withMap(clip, map));
        const plain = bent(bent(parade([100, 199], [300, 399]), 'c0', one), 'c1', two);
        const whole = put(plain, kind);
        const [set] = whole.reel.accents;
        const project = putAccents(whole, { ...set!, look: { ...set!.look, before } as AccentLook });
        const [{ frame, lead, frames }] = accentTimes(project) as [ReturnType<typeof accentTimes>[number]];
        const show = resolveReel(project);
        for (let k = frame - lead; k < frame - lead + frames; k++) {
          const { beside, goes } = show(k);
          expect(goes).toBe(k < frame);
          expect(beside!.position).toBeGreaterThanOrEqual(-1e-3);
          expect(beside!.position).toBeLessThanOrEqual(599 + 1e-3);
        }
        // It never reaches further than the middle of a clip.
        const [first, second] = placeItems(project);
        expect(lead).toBeLessThanOrEqual(first!.frames / 2);
        expect(frames - lead).toBeLessThanOrEqual(second!.frames / 2);
      }),
    );
  });

  test('a cut has one: another takes its place, there alone', () => {
    const project = putTransition(parade([100, 199], [300, 399], [100, 199]), ['c1', 'c2'], 'dissolve', 'd');
    expect(transitionInto(project, 'c2')?.look.kind).toBe('dissolve');
    const mixed = put(project, 'dip', 'c2');
    expect(mixed.reel.accents.map(({ look, on }) => [look.kind, on])).toEqual([
      ['dissolve', { kind: 'cuts', clipIds: ['c1'] }],
      ['dip', { kind: 'cuts', clipIds: ['c2'] }],
    ]);
    // Once more the first: with the others of its kind.
    const back = put(mixed, 'dissolve', 'c2');
    expect(back.reel.accents.map(({ id, on }) => [id, on])).toEqual([['d', { kind: 'cuts', clipIds: ['c1', 'c2'] }]]);
    const without = leaveOut(back, accentTimes(back)[0]!);
    expect(without.reel.accents[0]!.on).toEqual({ kind: 'cuts', clipIds: ['c2'] });
    expect(leaveOut(without, accentTimes(without)[0]!).reel.accents).toEqual([]);
  });

  test('needs a clip before the cut, is read as it was written, and says what it cannot be', () => {
    expect(() => put(parade([0, 99]), 'dissolve', 'c0')).toThrow(/needs a clip before the cut/);
    for (const kind of KINDS) {
      const project = put(parade([100, 199], [300, 399]), kind);
      expect(parseProject(JSON.parse(JSON.stringify(project)))).toEqual(project);
    }
    const turned = put(parade([100, 199], [300, 399]), 'turn');
    const [set] = turned.reel.accents;
    const by = (degrees: number) => () => putAccents(turned, { ...set!, look: { ...LOOKS.turn.initial, degrees } });
    expect(by(-90)).not.toThrow();
    expect(by(200)).toThrow(/look.degrees.*200° is not between -180° and 180°/);
  });

  test('dips are flashes where there are too many', () => {
    const short = Array.from({ length: 6 }, () => [100, 105] as const);
    const dips = putTransition(parade(...short), ['c1', 'c2', 'c3', 'c4', 'c5'], 'dip', 'd');
    expect(flickerSpots(dips)).toEqual([{ from: 6, to: 30, flashes: 4 }]);
  });
});

test('sounds cross over the frames that pictures do; at a dip each fades alone, at a push they are cut', () => {
  const project = parade([100, 199], [300, 399]);
  const crossed = (kind: AccentKind) => [...crossingsOf(put(project, kind))];
  const frames = { before: 0, after: 0, comes: 0, goes: 0 };
  expect(crossed('dissolve')).toEqual([
    ['c0', { ...frames, after: 6, goes: 12 }],
    ['c1', { ...frames, before: 6, comes: 12 }],
  ]);
  expect(crossed('dip')).toEqual([
    ['c0', { ...frames, goes: 8 }],
    ['c1', { ...frames, comes: 8 }],
  ]);
  expect(crossed('push')).toEqual([]);
  expect(placeOf(put(project, 'dissolve'), 'c1')).toEqual(placeOf(project, 'c1'));
});
