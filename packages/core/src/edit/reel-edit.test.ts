import { describe, expect, test } from '@jest/globals';
import { shifted } from '../beats/grid.js';
import { landClip } from '../landing/land-clip.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import type { Sound } from '../model/sound.js';
import { placeItems, placeOf, reelFrames } from '../reel/places.js';
import { frameOfSecond, loudnessAt, reelBeats, secondOfFrame } from '../reel/sound-time.js';
import { missingSource } from '../sampling/frame-count.js';
import { positionAt } from '../time-map/evaluate.js';
import { rate } from '../time/rate.js';
import { addCue, addMoment, addSource, appendClip, splitClip, tie } from './edit.js';
import { rateChangeReport } from './rate-change-report.js';
import * as reel from './reel-edit.js';
import * as sounds from './sounds.js';

const parade = (): Project => {
  const source = {
    id: 'bell',
    name: 'marble-bell',
    frames: 240,
    nativeRate: rate(24),
    readAs: rate(24),
    moments: [],
    droppedRepeats: null,
  };
  let project = addSource(emptyProject(rate(24)), source);
  for (const id of ['a', 'b', 'c']) project = appendClip(project, id, 'bell', 40, 99);
  return project;
};

const music: Sound = {
  id: 's',
  footageId: 'f',
  name: 'tune',
  startSeconds: 1,
  fromSeconds: 0.5,
  toSeconds: 20,
  gainDb: -6,
  fadeInSeconds: 2,
  fadeOutSeconds: 4,
  beats: { times: Array.from({ length: 30 }, (_, i) => 0.5 + 0.5 * i), bar: { beats: 4, first: 0 } },
};

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;

const starts = (project: Project) => placeItems(project).map(({ start, frames }) => [start, frames]);

const shows = (project: Project, id: string, k: number) => positionAt(clipOf(project, id).map, k);

describe('clips on the reel', () => {
  test('parts of one source have names of their own, however they came', () => {
    let project = reel.duplicateClip(splitClip(parade(), 'b', 20, 'd'), 'd', 'e');
    const names = () => project.reel.items.map((item) => (item.kind === 'clip' ? item.name : ''));
    expect(names()).toEqual(['marble-bell', 'marble-bell 2', 'marble-bell 4', 'marble-bell 5', 'marble-bell 3']);
    // A number that is part of a name stays.
    project = {
      ...project,
      sources: [{ ...project.sources[0]!, name: 'take 7' }],
      reel: { ...project.reel, items: [] },
    };
    for (const id of ['x', 'y']) project = appendClip(project, id, 'bell');
    expect(names()).toEqual(['take 7', 'take 7 2']);
  });

  test('stretched, a clip shows its first and its last frame, and asks for no source that is not there', () => {
    // 84 frames at 60 fps: at 100 % the clip's edge lies past its source's end.
    const source = {
      id: 'whip',
      name: 'whip-out',
      frames: 84,
      nativeRate: rate(60),
      readAs: rate(60),
      moments: [],
      droppedRepeats: null,
    };
    const whip = appendClip(addSource(emptyProject(rate(24)), source), 'w', 'whip');
    const last = placeOf(whip, 'w')!.frames - 1;
    for (const frames of [2, 9, 33, 34, 35, 55, 200]) {
      const stretched = reel.stretchClip(whip, 'w', frames);
      expect(placeOf(stretched, 'w')!.frames).toBe(frames);
      expect(shows(stretched, 'w', 0)).toBe(0);
      // What it showed, or the real frame nearest to it.
      expect(Math.abs(shows(stretched, 'w', frames - 1) - shows(whip, 'w', last))).toBeLessThanOrEqual(0.5 + 1e-6);
      expect(missingSource(clipOf(stretched, 'w').map, 84)).toBeUndefined();
    }
  });

  test('a gap goes between; a clip taken off leaves one, or closes up', () => {
    const gapped = reel.insertGap(parade(), 1, 'g', 12);
    expect(starts(gapped)).toEqual([
      [0, 60],
      [60, 12],
      [72, 60],
      [132, 60],
    ]);
    expect(starts(reel.setGap(gapped, 'g', 5))[2]).toEqual([65, 60]);
    expect(starts(reel.leaveGap(parade(), 'b', 'g'))).toEqual([
      [0, 60],
      [60, 60],
      [120, 60],
    ]);
    expect(() => reel.insertGap(parade(), 0, 'g', 0)).toThrow(/1 frame or more/);
  });

  test('trimming by the end cuts off, or goes on as it ended as far as the source lasts', () => {
    expect(starts(reel.trimEnd(parade(), 'a', 20))[0]).toEqual([0, 20]);
    const longer = reel.trimEnd(parade(), 'a', 90);
    expect(starts(longer)[1]).toEqual([90, 60]);
    expect(shows(longer, 'a', 89)).toBe(129);
    // 240 − 40 frames are all there are.
    expect(placeOf(reel.trimEnd(parade(), 'a', 900), 'a')!.frames).toBe(200);
  });

  test('trimming by the beginning keeps what is shown after it, and its place on the reel', () => {
    const shorter = reel.trimStart(parade(), 'b', 10);
    expect(starts(shorter)).toEqual([
      [0, 60],
      [60, 50],
      [110, 60],
    ]);
    expect(shows(shorter, 'b', 0)).toBe(50);
    const longer = reel.trimStart(parade(), 'b', -10);
    expect([shows(longer, 'b', 0), shows(longer, 'b', 10)]).toEqual([30, 40]);
    expect(shows(reel.trimStart(parade(), 'b', -500), 'b', 0)).toBe(0);
  });

  test('a slip that cannot be done says how far the source goes', () => {
    const first = reel.slipClip(parade(), 'a', -999);
    expect(() => reel.checkSlip(first, 'a', -1)).toThrow(/first frame of its source already/);
    const later = reel.slipClip(first, 'a', 25);
    for (const by of [0, 5, -25]) expect(() => reel.checkSlip(later, 'a', by)).not.toThrow();
    expect(() => reel.checkSlip(later, 'a', -26)).toThrow('only 25 source frames are left before what it shows');
    const slipped = reel.slipClip(parade(), 'a', 999);
    expect(() => reel.checkSlip(slipped, 'a', 1)).toThrow(
      'the clip shows the last frame of its source already, so there is nothing after it',
    );
  });

  test('stretching keeps the content, slipping the curve, duplicating both', () => {
    const stretched = reel.stretchClip(parade(), 'a', 120);
    expect(placeOf(stretched, 'a')!.frames).toBe(120);
    expect(shows(stretched, 'a', 0)).toBe(40);
    expect(shows(stretched, 'a', 119)).toBeGreaterThan(98.5);
    expect([
      shows(reel.slipClip(parade(), 'a', 25), 'a', 3),
      shows(reel.slipClip(parade(), 'a', -999), 'a', 0),
    ]).toEqual([68, 0]);
    expect(shows(reel.slipClip(parade(), 'a', 999), 'a', 59)).toBe(239);
    const twice = reel.duplicateClip(parade(), 'a', 'a2');
    expect(twice.reel.items.map(({ id }) => id)).toEqual(['a', 'a2', 'b', 'c']);
    expect(clipOf(twice, 'a2').map).toEqual(clipOf(twice, 'a').map);
  });

  test('other footage takes a clip’s place and length', () => {
    const other = {
      id: 'row',
      name: 'dominoes',
      frames: 600,
      nativeRate: rate(60),
      readAs: rate(60),
      moments: [],
      droppedRepeats: null,
    };
    const swapped = reel.replaceClip(addSource(parade(), other), 'b', 'row');
    expect(starts(swapped)).toEqual(starts(parade()));
    expect(clipOf(swapped, 'b')).toMatchObject({ sourceId: 'row', name: 'dominoes' });
  });
});

describe('pinned cuts', () => {
  const pinned = (frame: number) => reel.pinClip(addCue(parade(), { id: 'cue', frame, name: 'x' }), 'b', 'cue');

  test('stay where they are: what comes before is cut off or goes on', () => {
    expect(starts(pinned(50))).toEqual([
      [0, 50],
      [50, 60],
      [110, 60],
    ]);
    expect(starts(pinned(75.4))[1]).toEqual([75, 60]);
    const upstream = reel.stretchClip(pinned(50), 'a', 200);
    expect(starts(upstream)[1]).toEqual([50, 60]);
  });

  test('a clip that fills its room changes its speed instead', () => {
    const filling = reel.setFills(pinned(90), 'a', true);
    expect(starts(filling)[1]).toEqual([90, 60]);
    expect(shows(filling, 'a', 0)).toBe(40);
    expect(shows(filling, 'a', 89)).toBeGreaterThan(98);
    const moved = reel.reconcileReel({
      ...filling,
      reel: { ...filling.reel, cues: [{ id: 'cue', frame: 30, name: 'x', beat: null }] },
    });
    expect(starts(moved)[1]).toEqual([30, 60]);
    expect(shows(moved, 'a', 29)).toBeGreaterThan(96);
  });

  test('without room a pin is missed and said to be', () => {
    const project = reel.pinClip(addCue(pinned(50), { id: 'early', frame: 20, name: '' }), 'c', 'early');
    expect(reel.missedPins(project)).toEqual([{ clipId: 'c', frames: 31 }]);
    expect(reel.missedPins(pinned(50))).toEqual([]);
    expect(() => reel.pinClip(pinned(50), 'a', 'cue')).toThrow(/nothing comes before/);
  });
});

describe('sounds', () => {
  const laid = sounds.addSound(parade(), music);

  test('say where their seconds are on the reel, and how loud they are there', () => {
    expect(frameOfSecond(laid, music, 2.5)).toBe(72);
    expect(secondOfFrame(laid, music, 72)).toBe(2.5);
    expect(loudnessAt(music, 10)).toBeCloseTo(0.501, 3);
    expect([0.4, 0.5, 1.5, 18, 20].map((s) => loudnessAt(music, s) / 10 ** (-6 / 20))).toEqual(
      [0, 0, 0.5, 0.5, 0].map((v) => expect.closeTo(v, 9)),
    );
    expect(() => sounds.updateSound(laid, 's', { fadeInSeconds: 18 })).toThrow(/not be longer/);
    expect(() => sounds.updateSound(laid, 's', { gainDb: 100 })).toThrow(/-60 to 24/);
  });

  test('take their cues along: dragged, at another rate of the reel, and when beats are put right', () => {
    const { project, cueId } = sounds.cueOnSound(laid, 's', 2.5, 'q');
    const frame = (p: Project) => p.reel.cues.find((c) => c.id === cueId)!.frame;
    expect(project.reel.cues[0]).toMatchObject({ name: 'bar 2, beat 1', frame: 72 });
    expect(frame(sounds.updateSound(project, 's', { startSeconds: 2 }))).toBe(96);
    expect(frame(reel.setReelRate(project, rate(30)))).toBe(90);
    expect(frame(sounds.setBeats(project, 's', shifted(music.beats!, 0.5)))).toBe(78);
    expect(sounds.cueOnSound(project, 's', 2.5, 'z')).toEqual({ project, cueId: 'q' });
    const without = sounds.removeSound(project, 's');
    expect(without.reel.cues[0]).toMatchObject({ frame: 72, beat: null });
  });

  test('their beats are on the reel where they are heard; a moment lands on one', () => {
    const beats = reelBeats(laid);
    expect(beats.slice(0, 3).map(({ frame }) => frame)).toEqual([24, 36, 48]);
    expect(beats.every(({ second }) => second >= music.fromSeconds && second < music.toSeconds)).toBe(true);
    const { project, cueId } = sounds.cueOnSound(laid, 's', 1.5, 'q');
    const marked = addMoment(project, 'bell', { id: 'm', frame: 80, name: 'hit' });
    // The beat, at frame 48, comes before clip b begins at 60.
    expect(() => landClip(tie(marked, 'b', 'm', cueId), 'b')).toThrow(/not within the clip|cue/);
    const { project: landed, conflicts } = landClip(tie(marked, 'a', 'm', cueId), 'a');
    expect(conflicts).toEqual([]);
    expect(shows(landed, 'a', 48)).toBeCloseTo(80, 6);
  });

  test('another rate keeps the time of everything', () => {
    const faster = reel.setReelRate(laid, rate(48));
    expect(reelFrames(faster)).toBe(2 * reelFrames(laid));
    expect(shows(faster, 'b', 20)).toBeCloseTo(50, 9);
    expect(rateChangeReport(laid, faster).map(({ framesBefore, framesAfter }) => [framesBefore, framesAfter])).toEqual([
      [60, 120],
      [60, 120],
      [60, 120],
    ]);
    expect(rateChangeReport(laid, faster)[0]).toMatchObject({ name: 'marble-bell', realBefore: 1, realAfter: 0.5 });
    expect(() => reel.setReelSize(laid, 1081, 1920)).toThrow(/even number/);
    expect(reel.setReelSize(laid, 1080, 1920).reel).toMatchObject({ width: 1080, height: 1920 });
  });
});
