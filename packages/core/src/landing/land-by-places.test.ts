import { describe, expect, test } from '@jest/globals';
import { addCue, addMoment, addSource, appendClip, tie, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { pinClip } from '../edit/reel-edit.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { placeOf } from '../reel/places.js';
import { rate } from '../time/rate.js';
import { positionAt } from '../time-map/evaluate.js';
import { mapDuration, straightMap, type TimeMap } from '../time-map/time-map.js';
import { assignments } from '../clean/assignments.js';
import { landByPlaces } from '../clean/land-by-places.js';
import { placeVertices } from '../../test/place-vertices.js';
import { editorsMap, landingsFor, numbers } from '../../test/editors-maps.js';
import { landClip } from './land-clip.js';
import { landMap } from './land-map.js';
import { reportSentence } from './landing-report.js';
import { realFrames, reachPhases } from '../clean/real-frames.js';

describe('landings on maps as editors make them', () => {
  test.each([
    [1, 3, 0.97, 0.98],
    [1, 6, 0.97, 0.98],
    [1, 12, 0.97, 0.98],
    [2, 6, 0.95, 0.97],
    [2, 12, 0.92, 0.95],
    [3, 3, 0.93, 0.95],
    [3, 6, 0.92, 0.95],
  ])('%i landings that are up to %i frames off are met, and speeds and real frames stay', (count, off, kept, clean) => {
    const random = numbers(1000 * count + off);
    let [before, after, reaches, cleanReaches] = [0, 0, 0, 0];
    for (let n = 0; n < 80; n++) {
      const map = editorsMap(random);
      const landings = landingsFor(map, count, off, random);
      const answer = landMap(map, landings, { change: 'places', freeEnd: false, trim: undefined, patience: 12 });
      for (const { moment, cue } of landings) expect(Math.abs(positionAt(answer.map, cue) - moment)).toBeLessThan(1e-6);
      const phases = reachPhases(answer.map);
      before += realFrames(map).real;
      after += realFrames(answer.map).real;
      reaches += phases.length;
      cleanReaches += phases.filter((phase) => phase.clean).length;
    }
    expect(after / before).toBeGreaterThan(kept);
    expect(cleanReaches / reaches).toBeGreaterThan(clean);
  });

  test('what is found between landings, one gap after another, is what a search for all places at once finds', () => {
    const random = numbers(77);
    let met = 0;
    for (let n = 0; n < 150; n++) {
      const map = editorsMap(random);
      const landings = landingsFor(map, 1 + (n % 3), 4, random);
      const stays = { locked: [], trimIn: 0, trimOut: 0, freeEnd: true, patience: 12, budget: { nodes: 20000 } };
      const offBends = assignments(map, landings, 12).filter((reaches) => reaches.every(Number.isInteger));
      const whole = placeVertices(map, landings, stays, offBends);
      const { patience, locked } = stays;
      const inGaps = landByPlaces(map, landings, { locked, patience, freeEnd: true, trim: { in: 0, out: 0 } });
      if (whole?.lost !== 0) continue;
      met++;
      expect(inGaps?.lost).toBe(0);
      // A clip that need not end elsewhere does not.
      if (mapDuration(inGaps!.map) === mapDuration(whole.map))
        expect(inGaps!.moved).toBeLessThanOrEqual(whole.moved * (1 + 1e-6) + 1e-6);
      expect(inGaps!.map.vertices).toHaveLength(map.vertices.length);
    }
    expect(met).toBeGreaterThan(50);
  });

  test('after a freeze there is a short stretch at once, where there is no room for one amid the reach', () => {
    const soft = (widthFrames: number) => ({ widthFrames, ease: 'soft' as const });
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 30, s: 60 },
        { t: 60, s: 60 },
        { t: 110, s: 110 },
      ],
      bends: [soft(0), soft(4), soft(0), soft(0)],
    };
    // The freeze ends two frames later, and frame 67 is to show no later: seven source frames in five.
    const landings = [
      { moment: 54, cue: 29 },
      { moment: 67, cue: 67 },
    ];
    const answer = landByPlaces(map, landings, { locked: [], freeEnd: false, trim: { out: 0 }, patience: 12 })!;
    for (const { moment, cue } of landings) expect(positionAt(answer.map, cue)).toBeCloseTo(moment, 9);
    const slopes = reachPhases(answer.map);
    expect(slopes.every(({ clean }) => clean)).toBe(true);
    const freeze = slopes.findIndex(({ slope }) => slope === 0);
    expect(answer.map.vertices[freeze + 1]!.t - answer.map.vertices[freeze]!.t).toBe(30);
    expect(slopes[freeze + 1]!.slope).toBe(1.5);
  });

  test('two moments that ask for twice their speed between them get a stretch that does it, and all else stays', () => {
    const map = straightMap(100, 0, 100);
    const bent: TimeMap = {
      vertices: [...map.vertices, { t: 140, s: 180 }],
      bends: [0, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    };
    const landings = [
      { moment: 40, cue: 40 },
      { moment: 58, cue: 50 },
    ];
    const answer = landMap(bent, landings, { change: 'places', freeEnd: false, trim: undefined, patience: 12 });
    for (const { moment, cue } of landings) expect(positionAt(answer.map, cue)).toBeCloseTo(moment, 9);
    const phases = reachPhases(answer.map);
    expect(phases.every(({ clean }) => clean)).toBe(true);
    expect(phases[0]!.slope).toBe(1);
    expect(Math.max(...phases.map(({ slope }) => slope))).toBeLessThanOrEqual(3);
  });

  test('a moment that lands on the first frame trims the in point to it', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 10 },
        { t: 40, s: 90 },
        { t: 80, s: 130 },
      ],
      bends: [0, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    };
    const answer = landMap(map, [{ moment: 14, cue: 0 }], {
      change: 'places',
      freeEnd: false,
      trim: undefined,
      patience: 12,
    });
    expect(answer.map.vertices[0]).toEqual({ t: 0, s: 14 });
    expect(answer.report).toMatchObject({ way: 'places', trimmed: { in: 4, out: 0 } });
  });

  test('two moments on one freeze land where both do, and nowhere else', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 20, s: 40 },
        { t: 50, s: 40 },
        { t: 90, s: 120 },
      ],
      bends: [0, 0, 0, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    };
    const choice = { locked: [], freeEnd: false, trim: {}, patience: 12 };
    const one = { moment: 40, cue: 23 };
    expect(landByPlaces(map, [one, one], choice)!.map.vertices[1]!.t).toBe(23);
    expect(landByPlaces(map, [one, { moment: 40, cue: 27 }], choice)).toBeUndefined();
  });

  test('two moments too far apart for their speed get a short stretch of a neighbouring clean one', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 20, s: 100 },
        { t: 120, s: 300 },
        { t: 140, s: 400 },
      ],
      bends: [0, 8, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
    };
    const landings = [
      { moment: 140, cue: 40 },
      { moment: 250, cue: 92 },
    ];
    const answer = landMap(map, landings, { change: 'places', freeEnd: false, trim: 0, patience: 12 });
    expect(answer.report).toMatchObject({ way: 'places', stretches: 1, trimmed: { in: 0, out: 0 }, longer: 0 });
    for (const { moment, cue } of landings) expect(positionAt(answer.map, cue)).toBeCloseTo(moment, 9);
    const phases = reachPhases(answer.map);
    expect(phases.every(({ clean }) => clean)).toBe(true);
    expect(Math.max(...phases.slice(1, -1).map(({ slope }) => slope))).toBeLessThanOrEqual(3);
    expect(reportSentence(answer.report)).toMatch(/^Every speed stays; .*a short stretch of another speed was put in/);
  });

  test('where nothing serves within the patience the speeds change, and it is said', () => {
    const map = straightMap(100, 0, 100);
    const answer = landMap(map, [{ moment: 50, cue: 20 }], { change: 'places', freeEnd: false, trim: 0, patience: 12 });
    expect(positionAt(answer.map, 20)).toBeCloseTo(50, 6);
    expect(answer.report.way).toBe('speeds');
    expect(reportSentence(answer.report)).toMatch(/^The speeds changed\. \d+ of 100 frames real \(100 before\)\.$/);
  });
});

describe('a clip on a reel', () => {
  /** Two clips of 120 fps on 24, the second straight; a moment of one tied to a cue. */
  function reel(clipId: 'a' | 'b', frame: number, cue: number): Project {
    let project = emptyProject(rate(24));
    for (const id of ['a', 'b']) {
      const source = { id: `f${id}`, name: id, frames: 700, nativeRate: rate(120), readAs: rate(120), moments: [] };
      project = appendClip(addSource(project, { ...source, droppedRepeats: null }), id, `f${id}`);
    }
    const soft = (widthFrames: number) => ({ widthFrames, ease: 'soft' as const });
    project = updateClip(project, 'a', (clip) =>
      withMap(clip, {
        vertices: [
          { t: 0, s: 0 },
          { t: 24, s: 120 },
          { t: 84, s: 180 },
          { t: 108, s: 300 },
        ],
        bends: [soft(0), soft(10), soft(10), soft(0)],
      }),
    );
    project = updateClip(project, 'b', (clip) => withMap(clip, straightMap(60, 100, 400)));
    project = addMoment(project, `f${clipId}`, { id: 'm', frame, name: 'hit' });
    return tie(addCue(project, { id: 'q', frame: cue, name: '' }), clipId, 'm', 'q');
  }
  const mapIn = (project: Project, id: string) => (placeOf(project, id)!.item as Clip).map;

  test('keeps its speeds, and says what moved and what it cost', () => {
    const { project, report } = landClip(reel('a', 150, 60), 'a');
    expect(mapIn(project, 'a').vertices.map(({ t }) => t)).toEqual([0, 22.5, 82.5, 108]);
    expect(report).toMatchObject({ way: 'places', moved: 1.5, trimmed: { in: 0, out: 0 }, longer: 0 });
    expect(reportSentence(report!)).toMatch(
      /^Every speed stays; where they change moved by up to 1.5 frames\. \d+ of 108/,
    );
  });

  test('of one speed slips in its source where there is material, and is not divided', () => {
    const { project, report } = landClip(reel('b', 250, 140), 'b');
    expect(mapIn(project, 'b')).toEqual(straightMap(60, 90, 390));
    expect(reportSentence(report!)).toMatch(
      /^Every speed stays; the clip shows source 10 source frames earlier\. 60 of 60/,
    );
  });

  test('of one speed whose cut is pinned gets stretches of neighbouring clean speeds', () => {
    const pinned = pinClip(addCue(reel('b', 250, 140), { id: 'p', frame: 108, name: '' }), 'b', 'p');
    const { project, report } = landClip(pinned, 'b');
    expect(positionAt(mapIn(project, 'b'), 32)).toBeCloseTo(250, 6);
    expect([report?.way, report?.stretches, mapIn(project, 'b').vertices[0]!.s]).toEqual(['places', 2, 100]);
    expect(reachPhases(mapIn(project, 'b')).every(({ clean }) => clean)).toBe(true);
  });

  test('before a pinned cut keeps its out point', () => {
    const tied = reel('a', 150, 60);
    const pinned = pinClip(addCue(tied, { id: 'p', frame: 108, name: '' }), 'b', 'p');
    const { project } = landClip(pinned, 'a', { freeEnd: true });
    expect(mapIn(project, 'a').vertices.at(-1)).toEqual({ t: 108, s: 300 });
  });
});
