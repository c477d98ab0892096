import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { addCue, addMoment, addSource, appendClip, tie, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { fillAt, framesToFill } from '../edit/frames-to-fill.js';
import { insertGap, pinClip, trimEnd } from '../edit/reel-edit.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { placeItems, placeOf, reelFrames } from '../reel/places.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { missingSource } from '../sampling/frame-count.js';
import { mapDuration, straightMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { conflictSentence } from './conflict-sentence.js';
import { landClip } from './land-clip.js';
import { landReel, reelDrifts } from './land-reel.js';

const FRAMES = 240;

const LIMITS = { slowest: 0.25, fastest: 4 };

/** Clips of 120 timeline frames, 60 fps on 24, each of a source of its own with moments tied to cues at frames of the clip. */
function reelOf(clips: readonly { readonly moments: readonly number[]; readonly cues: readonly number[] }[]): Project {
  let project = emptyProject(rate(24));
  clips.forEach((_, i) => {
    const source = {
      id: `f${i}`,
      name: `film ${i}`,
      frames: 340,
      nativeRate: rate(60),
      readAs: rate(60),
      moments: [],
      droppedRepeats: null,
    };
    project = appendClip(addSource(project, source), `c${i}`, `f${i}`);
    project = updateClip(project, `c${i}`, (clip) => ({
      ...withMap(clip, straightMap(FRAMES / 2, 0, 2.5 * (FRAMES / 2))),
      limits: LIMITS,
    }));
  });
  clips.forEach(({ moments, cues }, i) =>
    moments.forEach((frame, n) => {
      const [m, q] = [`m${i}-${n}`, `q${i}-${n}`];
      project = addMoment(project, `f${i}`, { id: m, frame, name: '' });
      const at = i * (FRAMES / 2) + cues[n]! + (i + n) * 1e-4;
      project = tie(addCue(project, { id: q, frame: at, name: '' }), `c${i}`, m, q);
    }),
  );
  return project;
}

const tied = fc
  .record({
    moments: fc.uniqueArray(fc.integer({ min: 10, max: 285 }), { minLength: 1, maxLength: 3 }),
    cues: fc.uniqueArray(fc.integer({ min: 5, max: 114 }), { minLength: 3, maxLength: 3 }),
  })
  .map(({ moments, cues }) => ({
    moments: moments.toSorted((a, b) => a - b),
    cues: cues.slice(0, moments.length).toSorted((a, b) => a - b),
  }));

/** The mean speed of every stretch from landing to landing: what any curve at all has to have there. */
function meanSpeeds({ moments, cues }: { moments: readonly number[]; cues: readonly number[] }): number[] {
  const marks = [{ t: 0, s: 0 }, ...moments.map((s, i) => ({ t: cues[i]!, s })), { t: 120, s: 300 }];
  return marks.slice(1).map(({ t, s }, i) => (s - marks[i]!.s) / (t - marks[i]!.t) / 2.5);
}

describe('a landing that would run past the source', () => {
  /** Slow, then racing out with the last of 120 source frames, the race locked; its moment nearly six frames late. */
  const racing = (end: Clip['end'] = 'hold') => {
    const project = reelOf([{ moments: [62], cues: [10] }]);
    return updateClip(
      { ...project, sources: project.sources.map((source) => ({ ...source, frames: 120 })) },
      'c0',
      (clip) => ({
        ...withMap(clip, {
          vertices: [
            { t: 0, s: 37 },
            { t: 16, s: 49.5 },
            { t: 31, s: 59 },
            { t: 38, s: 129 },
          ],
          bends: [0, 8, 10, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
        }),
        locks: [2],
        end,
      }),
    );
  };

  test('is not done but offered, and says what would be missing', () => {
    for (const gives of ['places', 'all', 'before', 'beside', 'start'] as const) {
      const project = racing();
      const answer = landClip(project, 'c0', { gives, freeEnd: true });
      if (answer.conflicts.length === 0) {
        const { map } = answer.project.reel.items[0] as Clip;
        expect(missingSource(map, 120)).toBeUndefined();
        continue;
      }
      expect(answer.project).toBe(project);
      expect(reelDrifts(answer.nearest!)[0]!.landed).toBe(true);
      expect(conflictSentence(project, 'c0', answer.conflicts[0]!)).toMatch(
        /^“frame 62” cannot land within the source: (one frame|\d+ frames) of the clip would have none\.$/,
      );
    }
    // The race slides along with what is before it.
    expect(landClip(racing(), 'c0', { gives: 'before', freeEnd: true }).conflicts).toMatchObject([
      { lacks: expect.any(Number) },
    ]);
    expect(landReel(racing(), { gives: 'before' }).conflicts).toHaveLength(1);
  });

  test('is never done, whatever may give and whatever is locked', () => {
    let [landed, offered] = [0, 0];
    const reach = fc.tuple(fc.integer({ min: 6, max: 30 }), fc.double({ min: 0.2, max: 2.8, noNaN: true }));
    fc.assert(
      fc.property(
        fc.array(reach, { minLength: 2, maxLength: 4 }),
        fc.constantFrom('places', 'all', 'before', 'beside', 'start', 'cut'),
        fc.boolean(),
        fc.double({ min: 0.2, max: 0.8, noNaN: true }),
        fc.integer({ min: -6, max: 6 }),
        (reaches, gives, isLocked, share, off) => {
          const vertices = reaches.reduce(
            (all, [frames, slope]) => [...all, { t: all.at(-1)!.t + frames, s: all.at(-1)!.s + frames * slope }],
            [{ t: 0, s: 0 }],
          );
          const { t: end, s: last } = vertices.at(-1)!;
          const at = Math.round(end * share);
          const map = { vertices, bends: vertices.map(() => ({ widthFrames: 0, ease: 'soft' as const })) };
          const moment = Math.round(positionAt(map, at));
          const cue = Math.max(1, Math.min(Math.floor(end) - 1, at + off));
          const base = reelOf([{ moments: [moment], cues: [cue] }]);
          // No frame of the source is left beyond what the clip shows.
          const frames = Math.max(moment + 1, Math.ceil(last));
          const project = updateClip(
            { ...base, sources: base.sources.map((source) => ({ ...source, frames })) },
            'c0',
            (clip) => ({ ...withMap(clip, map), limits: null, locks: isLocked ? [reaches.length - 1] : [] }),
          );
          const clipIn = (p: Project) => p.reel.items.find(({ id }) => id === 'c0') as Clip;
          const lacking = (p: Project) => missingSource(clipIn(p).map, frames)?.count ?? 0;
          const answer = landClip(project, 'c0', { gives, offers: false });
          expect(lacking(answer.project)).toBeLessThanOrEqual(lacking(project));
          if (answer.conflicts.length === 0) landed++;
          const lacks = answer.conflicts[0]?.lacks;
          if (lacks === undefined) return;
          offered++;
          expect(answer.nearest && lacking(answer.nearest)).toBe(lacking(project) + lacks);
        },
      ),
      { numRuns: 300 },
    );
    expect([landed > 100, offered > 10]).toEqual([true, true]);
  });

  test('is done where the clip begins again there, or is black', () => {
    for (const end of ['loop', 'black'] as const)
      expect(landClip(racing(end), 'c0', { gives: 'before', freeEnd: true }).conflicts).toEqual([]);
  });
});

describe('the whole reel', () => {
  test('lands exactly what any curve could, says what none can, and never leaves the limits', () => {
    let [landed, refused] = [0, 0];
    fc.assert(
      fc.property(fc.array(tied, { minLength: 1, maxLength: 3 }), (clips) => {
        const project = reelOf(clips);
        const answer = landReel(project);
        clips.forEach((clip, i) => {
          const means = meanSpeeds(clip);
          const impossible = means.some((v) => v < LIMITS.slowest - 1e-6 || v > LIMITS.fastest + 1e-6);
          const easy = means.every((v) => v > LIMITS.slowest * 1.7 && v < LIMITS.fastest / 1.7);
          const conflict = answer.conflicts.some(({ clipId }) => clipId === `c${i}`);
          if (impossible) expect(conflict).toBe(true);
          if (easy) expect(conflict).toBe(false);
          const drifts = reelDrifts(answer.project, `c${i}`);
          if (!conflict) expect(drifts.every((d) => d.landed)).toBe(true);
          const { map } = placeOf(answer.project, `c${i}`)!.item as Clip;
          // A clip that cannot land is as it was.
          if (conflict) expect(map).toBe((placeOf(project, `c${i}`)!.item as Clip).map);
          for (let t = 0; t <= mapDuration(map); t += 0.5) {
            const speed = slopeAt(map, t) / 2.5;
            expect(speed).toBeGreaterThanOrEqual(LIMITS.slowest - 1e-6);
            expect(speed).toBeLessThanOrEqual(LIMITS.fastest + 1e-6);
          }
          if (conflict) refused++;
          else landed++;
        });
        expect(reelFrames(answer.project)).toBe(reelFrames(project));
        // Landed once, nothing is left to do.
        expect(landReel(answer.project).project).toBe(answer.project);
      }),
      { numRuns: 60 },
    );
    expect(Math.min(landed, refused)).toBeGreaterThan(10);
  });

  test('a clip lands as it would by itself, wherever those before it end', () => {
    fc.assert(
      fc.property(tied, tied, (a, b) => {
        const both = landReel(reelOf([a, b]), { freeEnd: true });
        fc.pre(both.conflicts.length === 0);
        const [, second] = placeItems(both.project);
        // The first gave at its end, so the second begins elsewhere and its cues lie elsewhere in it.
        const alone = landClip(both.project, 'c1', { freeEnd: true });
        const map = (p: Project) => (placeOf(p, 'c1')!.item as Clip).map;
        map(alone.project).vertices.forEach(({ s }, i) => expect(s).toBeCloseTo(map(both.project).vertices[i]!.s, 5));
        expect(reelDrifts(both.project).every((d) => d.landed)).toBe(true);
        expect(second!.start).toBe(placeOf(both.project, 'c0')!.frames);
      }),
      { numRuns: 40 },
    );
  });
});

describe('when the cut gives', () => {
  const project = () =>
    reelOf([
      { moments: [], cues: [] },
      { moments: [100], cues: [47] },
    ]);
  const speeds = (p: Project) => p.reel.items.flatMap((item) => (item.kind === 'clip' ? [slopeAt(item.map, 10)] : []));

  test('what comes before lasts longer or shorter, every speed stays, and the moment shows on its cue', () => {
    for (const cue of [20, 33, 40, 47, 90]) {
      const before = reelOf([
        { moments: [], cues: [] },
        { moments: [101], cues: [cue] },
      ]);
      const { project: after, conflicts } = landClip(before, 'c1', { gives: 'cut' });
      if (cue > 56) {
        // The clip before has no more to show.
        expect(conflicts[0]).toMatchObject({ landings: [0] });
        expect(after).toBe(before);
        continue;
      }
      expect(conflicts).toEqual([]);
      expect(reelDrifts(after).every((d) => d.landed)).toBe(true);
      expect(speeds(after)).toEqual(speeds(before));
      expect(placeOf(after, 'c1')!.start).toBe(120 + cue - 40);
    }
  });

  test('a gap gives without end, and one is put where nothing comes before', () => {
    const gapped = landClip(insertGap(project(), 1, 'g', 5), 'c1', { gives: 'cut' });
    // The gap put the clip 5 frames later than its cue was meant for.
    expect(gapped.conflicts).toEqual([]);
    expect(placeOf(gapped.project, 'g')!.frames).toBe(7);
    const first = reelOf([{ moments: [100], cues: [50] }]);
    const { project: moved } = landClip(first, 'c0', { gives: 'cut' });
    expect(placeItems(moved).map(({ item, frames }) => [item.kind, frames])).toEqual([
      ['gap', 10],
      ['clip', 120],
    ]);
    expect(reelDrifts(moved)[0]!.landed).toBe(true);
  });

  test('a pinned cut does not move', () => {
    const pinned = pinClip(addCue(project(), { id: 'p', frame: 120, name: '' }), 'c1', 'p');
    const answer = landClip(pinned, 'c1', { gives: 'cut' });
    expect(answer.project).toBe(pinned);
    expect(answer.conflicts[0]!.frames).toBe(7);
  });
});

test('frames to fill: what the slot needs, and what the source gives at each even speed', () => {
  const project = updateClip(reelOf([{ moments: [], cues: [] }]), 'c0', (clip) =>
    withMap(clip, straightMap(48, 100, 220)),
  );
  const { slot, fillings } = framesToFill(project, 'c0')!;
  expect(slot).toBe(48);
  const gives = (speed: number) => fillings.find((f) => Math.abs(f.speed - speed) < 1e-9)?.frames;
  // 239 source frames are left from frame 100 on: every one, every second, every fourth.
  expect([gives(0.4), gives(0.8), gives(1.6)]).toEqual([240, 120, 60]);
  expect(fillings.map(({ speed }) => speed)).toEqual(fillings.map(({ speed }) => speed).toSorted((a, b) => a - b));
  const filled = placeOf(fillAt(project, 'c0', fillings.find((f) => Math.abs(f.speed - 0.8) < 1e-9)!.speed), 'c0')!;
  expect(filled.frames).toBe(48);
  expect(positionAt((filled.item as Clip).map, 10)).toBeCloseTo(120, 9);
  // At 400 % it gives 24 frames of the 48.
  expect(placeOf(fillAt(project, 'c0', 4), 'c0')!.frames).toBe(24);
});

describe('what may change decides what does', () => {
  /** Four equal reaches; the moment in the second has to land 6 frames later. */
  const reel = () => {
    const vertices = [0, 30, 60, 90, 120].map((t) => ({ t, s: 2.5 * t }));
    const bends = vertices.map(() => ({ widthFrames: 0, ease: 'soft' as const }));
    return updateClip(reelOf([{ moments: [100], cues: [46] }]), 'c0', (clip) => ({
      ...clip,
      map: { vertices, bends },
    }));
  };
  const changed = (gives: 'all' | 'before' | 'beside') => {
    const { project, conflicts } = landClip(reel(), 'c0', { gives, freeEnd: false });
    expect(conflicts).toEqual([]);
    const { map } = placeOf(project, 'c0')!.item as Clip;
    return [15, 50, 80, 110].map((t) => Math.abs(slopeAt(map, t) - 2.5) > 1e-6);
  };

  test('all speeds, only those before, only those beside', () => {
    expect(changed('all')).toEqual([true, true, true, true]);
    expect(changed('beside').at(-1)).toBe(false);
  });

  test('a cut moves by one frame as by any other', () => {
    for (const by of [-1, 1]) {
      const before = reelOf([
        { moments: [], cues: [] },
        { moments: [100], cues: [40 + by] },
      ]);
      const { project, conflicts } = landClip(trimEnd(before, 'c0', 100), 'c1', { gives: 'cut' });
      expect(conflicts).toEqual([]);
      expect(reelDrifts(project).every((d) => d.landed)).toBe(true);
    }
  });
});
