import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addCue,
  addMoment,
  addSource,
  appendClip,
  moveItem,
  splitClip,
  tie,
  updateClip,
  backToPlain,
  removeItem,
} from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap, leaveGap, pinClip, reconcileReel, replaceClip, setReelRate, slipClip } from '../edit/reel-edit.js';
import { groupItems, ungroup } from '../group/group-items.js';
import { insideGroup } from '../group/inside.js';
import { landClip } from '../landing/land-clip.js';
import { reelDrifts } from '../landing/land-reel.js';
import type { Clip } from '../model/clip.js';
import { type JoinChoice, DEFAULT_JOIN, type RampJoin } from '../model/join.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import type { CameraMotion, SourceMotion } from '../motion/source-motion.js';
import { joinAfter } from '../reel/active-joins.js';
import { clipSlope } from '../reel/clips.js';
import { placeItems, placeOf } from '../reel/places.js';
import { reverseMap, setReachSpeed } from '../time-map/edit.js';
import { positionAt, speedAt } from '../time-map/evaluate.js';
import { bendWindow, mapDuration, reachSlope } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { fittingStretches, takeStretch } from './fitting.js';
import { changeJoin, firstJoin, joinAll, matchJoin } from './first-join.js';
import { joinChain, putJoin, takeJoinOff } from './join.js';
import { motionAtJoin, putMatchedJoin } from './matched.js';

const source = (id: string, fps = 60) => ({
  id,
  name: id,
  frames: 600,
  nativeRate: rate(fps),
  readAs: rate(fps),
  moments: [],
  droppedRepeats: null,
});

/** The middle of each source, 80 reel frames long: there is source on both sides. */
function parade(): Project {
  let project = ['out', 'in', 'boat'].map((id) => source(id)).reduce(addSource, emptyProject(rate(24)));
  for (const id of ['out', 'in', 'boat']) project = appendClip(project, `clip-${id}`, id, 200, 399);
  return project;
}

const bent = (project: Project, id: string, reach: number) =>
  updateClip(project, id, (c) => withMap(c, setReachSpeed(c.map, reach, 2, 2.5, 'slot')));

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;

const frames = (project: Project) => placeItems(project).map((p) => p.frames);

const join = (project: Project, choice: Partial<JoinChoice> = {}) =>
  putJoin(project, 'clip-out', { ...DEFAULT_JOIN, ...choice }, 'j');

/** Speeds just before and just after the cut. */
function atCut(project: Project): [number, number] {
  const [a, b] = [clipOf(project, 'clip-out'), clipOf(project, 'clip-in')];
  return [
    speedAt(a.map, mapDuration(a.map) - 1e-6, clipSlope(project, a)),
    speedAt(b.map, 1e-6, clipSlope(project, b)),
  ];
}

describe('a ramp join', () => {
  test('both sides are at the peak at the cut; slots, and the cut, stay', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 4, noNaN: true }),
        fc.integer({ min: 4, max: 40 }),
        fc.integer({ min: 4, max: 40 }),
        fc.constantFrom('soft', 'silk', 'late', 'early', 'straight'),
        (peak, into, outOf, ease) => {
          const plain = parade();
          const joined = reconcileReel(join(plain, { peak, into, outOf, ease: ease as JoinChoice['ease'] }));
          expect(joined.reel.joins).toHaveLength(1);
          expect(frames(joined)).toEqual(frames(plain));
          for (const speed of atCut(joined)) expect(speed / peak).toBeCloseTo(1, 6);
          // From frame to frame too, on either side of the cut.
          const [a, b] = [clipOf(joined, 'clip-out'), clipOf(joined, 'clip-in')];
          expect((positionAt(a.map, 79) - positionAt(a.map, 78)) / 2.5 / peak).toBeCloseTo(1, 6);
          expect((positionAt(b.map, 1) - positionAt(b.map, 0)) / 2.5 / peak).toBeCloseTo(1, 6);
          expect(parseProject(JSON.parse(JSON.stringify(joined)))).toEqual(joined);
        },
      ),
    );
  });

  test('comes off cleanly, and changes as one thing', () => {
    const plain = parade();
    const joined = join(join(plain), { peak: 8, into: 12, outOf: 12, keeps: 'content' });
    expect(joined.reel.joins).toHaveLength(1);
    expect(atCut(joined)[0]).toBeCloseTo(8, 6);
    const off = takeJoinOff(joined, 'j');
    expect(frames(off)).toEqual(frames(plain));
    expect(off.reel).toEqual(plain.reel);
  });

  test('what is left unused at the cut is at least the spare, and it says so when there is none', () => {
    const joined = join(parade(), { peak: 7, into: 30, outOf: 24, spare: 60 });
    expect(positionAt(clipOf(joined, 'clip-out').map, 79)).toBeLessThanOrEqual(599 - 60 + 1e-6);
    expect(positionAt(clipOf(joined, 'clip-in').map, 0)).toBeGreaterThanOrEqual(60 - 1e-6);
    expect(() => join(parade(), { peak: 30, into: 60, spare: 60 })).toThrow(/source ends/);
    expect(() => join(parade(), { into: 80 })).toThrow(/the clip has 80 frames; a ramp of 80 leaves nothing of it/);
    expect(() => putJoin(parade(), 'clip-boat', DEFAULT_JOIN, 'j')).toThrow(/follow right after/);
  });

  test('a pinned cut stays on its cue even when content is kept', () => {
    const pinned = pinClip(addCue(parade(), { id: 'q', frame: 70, name: 'bar 3' }), 'clip-in', 'q');
    const joined = reconcileReel(join(pinned, { keeps: 'content' }));
    expect(placeOf(joined, 'clip-in')!.start).toBe(70);
    expect(atCut(joined)).toEqual([expect.closeTo(4, 6), expect.closeTo(4, 6)]);
    expect(placeOf(takeJoinOff(joined, 'j'), 'clip-in')!.start).toBe(70);
  });

  test('a reversed clip races backward into the cut', () => {
    const reversed = updateClip(parade(), 'clip-out', (clip) => withMap(clip, reverseMap(clip.map)));
    expect(atCut(join(reversed))[0]).toBeCloseTo(-4, 6);
  });

  test('a chain joins every cut; the clip in the middle keeps both its ramps, and each comes off alone', () => {
    let n = 0;
    const chain = joinChain(parade(), ['clip-out', 'clip-in', 'clip-boat'], (p, id) =>
      putJoin(p, id, { ...DEFAULT_JOIN, into: 20, outOf: 20 }, `j${n++}`),
    );
    expect([chain.joined, chain.refused]).toEqual([2, []]);
    const settled = reconcileReel(chain.project);
    expect(settled.reel.joins).toHaveLength(2);
    const { map } = clipOf(settled, 'clip-in');
    for (const t of [0, 80]) expect(speedAt(map, t, 2.5)).toBeCloseTo(4, 6);
    expect(speedAt(map, 40, 2.5)).toBeCloseTo(1, 6);
    const one = takeJoinOff(settled, 'j0');
    expect(speedAt(clipOf(one, 'clip-in').map, 0, 2.5)).toBeCloseTo(1, 6);
    expect(takeJoinOff(one, 'j1').reel).toEqual(parade().reel);
  });

  test('landing a hit inside a joined clip leaves the speed at the cut alone', () => {
    let project = addMoment(parade(), 'in', { id: 'm', frame: 300, name: 'hit' });
    project = addCue(join(project), { id: 'q', frame: 80 + 36, name: 'beat' });
    const done = reconcileReel(landClip(tie(project, 'clip-in', 'm', 'q'), 'clip-in').project);
    expect(reelDrifts(done).map(({ landed }) => landed)).toEqual([true]);
    expect(done.reel.joins).toHaveLength(1);
    expect(atCut(done)[1]).toBeCloseTo(4, 6);
    expect(takeJoinOff(done, 'j').reel.joins).toEqual([]);
  });

  test('a hit that had landed lands again when the rest has to be slowed for the ramp, and taking it off brings all back', () => {
    let project = addMoment(addCue(parade(), { id: 'q', frame: 80 + 40, name: 'beat' }), 'in', {
      id: 'm',
      frame: 300,
      name: 'hit',
    });
    project = landClip(tie(project, 'clip-in', 'm', 'q'), 'clip-in').project;
    const joined = reconcileReel(join(project, { spare: 180 }));
    expect(joined.reel.joins[0]!.undo.after.slowed).toBeLessThan(1);
    expect(reelDrifts(joined).map(({ landed }) => landed)).toEqual([true]);
    expect(atCut(joined)[1]).toBeCloseTo(4, 6);
    expect(takeJoinOff(joined, 'j').reel).toEqual(project.reel);
  });

  test('where the source ends too early the clip shows content from before, every speed staying; taken off, all is back', () => {
    const plain = [200, 480].reduce(
      (project, first, n) => appendClip(project, ['clip-in', 'clip-out'][n]!, ['in', 'out'][n]!, first, first + 119),
      ['out', 'in'].map((id) => source(id)).reduce(addSource, emptyProject(rate(24))),
    );
    // 480 to 599 of 600: the ramp wants more than is left.
    const project = moveItem(plain, 'clip-out', 0);
    const joined = join(project);
    const { map } = clipOf(joined, 'clip-out');
    expect(reachSlope(map, 0)).toBeCloseTo(2.5, 9);
    expect(Number.isInteger(map.vertices[0]!.s)).toBe(true);
    expect(map.vertices[0]!.s).toBeLessThan(480);
    expect(positionAt(map, frames(joined)[0]! - 1)).toBeLessThanOrEqual(599);
    expect(joined.reel.joins[0]!.undo.before.slowed).toBe(1);
    expect(takeJoinOff(joined, 'j').reel.items).toEqual(project.reel.items);
    // With a hit that has landed nothing may slip: the rest is slowed.
    const marked = addMoment(addCue(project, { id: 'beat', frame: 12, name: '' }), 'out', {
      ...{ id: 'hit', name: '' },
      frame: 510,
    });
    const slowed = join(tie(marked, 'clip-out', 'hit', 'beat'));
    expect(slowed.reel.joins[0]!.undo.before.slowed).toBeLessThan(1);
  });

  test('in a chain any join comes off as if it had never been, whatever was made after it', () => {
    // All of every source: each ramp makes the rest of its clips slower.
    const plain = ['a', 'b', 'c', 'd'].reduce(
      (project, id) => appendClip(addSource(project, source(id)), `clip-${id}`, id, 0, 599),
      emptyProject(rate(24)),
    );
    const cuts = ['a', 'b', 'c'];
    const put = (project: Project, id: string) => putJoin(project, `clip-${id}`, DEFAULT_JOIN, id);
    const chain = cuts.reduce(put, plain);
    for (const gone of cuts) {
      const others = cuts.filter((id) => id !== gone);
      const left = takeJoinOff(chain, gone);
      expect(left.reel.items).toEqual(others.reduce(put, plain).reel.items);
      expect(left.reel.joins.map(({ id }) => id).sort()).toEqual(others);
    }
    for (const order of [
      ['a', 'b', 'c'],
      ['b', 'c', 'a'],
      ['c', 'a', 'b'],
    ])
      expect(order.reduce(takeJoinOff, chain).reel).toEqual(plain.reel);
    // A clip that is moved out of it takes both its ramps off, in whatever order they were made.
    for (const pair of [cuts.slice(0, 2), cuts.slice(0, 2).reverse()]) {
      const moved = reconcileReel(moveItem(pair.reduce(put, plain), 'clip-b', 3));
      expect(moved.reel).toEqual(moveItem(plain, 'clip-b', 3).reel);
    }
  });

  test('one from before there was a choice has its clips land by their speeds, and stays so when it is changed', () => {
    const marked = addMoment(addCue(parade(), { id: 'beat', frame: 40, name: '' }), 'out', {
      ...{ id: 'hit', name: '' },
      frame: 300,
    });
    const landed = landClip(tie(marked, 'clip-out', 'hit', 'beat'), 'clip-out').project;
    const now = putJoin(landed, 'clip-out', DEFAULT_JOIN, 'j');
    expect(now.reel.joins[0]!.lands).toBe('places');
    const old: Partial<RampJoin> = { ...now.reel.joins[0]! };
    Reflect.deleteProperty(old, 'lands');
    const before = parseProject(JSON.parse(JSON.stringify({ ...now, reel: { ...now.reel, joins: [old] } })));
    expect(before.reel.joins[0]).toEqual(old);
    const faster = (project: Project) => putJoin(project, 'clip-out', { ...DEFAULT_JOIN, peak: 3 }, 'x').reel.joins[0]!;
    expect(faster(before)).not.toHaveProperty('lands');
    expect(faster(now)).toMatchObject({ id: 'j', peak: 3, lands: 'places' });
  });

  test('slipping leaves it; a split before the ramp gives it to the second part, one after the other ramp leaves it', () => {
    const joined = join(parade());
    expect(reconcileReel(slipClip(joined, 'clip-in', 5)).reel.joins).toHaveLength(1);
    expect(reconcileReel(splitClip(joined, 'clip-out', 30, 'tail')).reel.joins[0]!.before).toBe('tail');
    expect(reconcileReel(splitClip(joined, 'clip-in', 50, 'tail')).reel.joins[0]!.after).toBe('clip-in');
  });

  test.each<[string, (project: Project) => Project, readonly string[]]>([
    ['the first is moved', (p) => moveItem(p, 'clip-out', 2), ['clip-out', 'clip-in']],
    ['the first is removed', (p) => removeItem(p, 'clip-out'), ['clip-in']],
    ['the second is removed', (p) => removeItem(p, 'clip-in'), ['clip-out']],
    ['a gap is left for the second', (p) => leaveGap(p, 'clip-in', 'gap'), ['clip-out']],
    ['a gap comes between', (p) => insertGap(p, 1, 'gap', 10), ['clip-out', 'clip-in']],
    ['the first is replaced', (p) => replaceClip(p, 'clip-out', 'boat'), ['clip-in']],
    ['the second is replaced', (p) => replaceClip(p, 'clip-in', 'boat'), ['clip-out']],
    ['the first is made plain', (p) => backToPlain(p, 'clip-out'), ['clip-in']],
    ['the second is made plain', (p) => backToPlain(p, 'clip-in'), ['clip-out']],
    ['the first is bent at the cut', (p) => bent(p, 'clip-out', 1), ['clip-in']],
    ['the second is bent at the cut', (p) => bent(p, 'clip-in', 0), ['clip-out']],
  ])('when %s, the other half is taken off exactly', (_, change, whole) => {
    const plain = parade();
    const broken = reconcileReel(change(join(plain)));
    expect(broken.reel.joins).toEqual([]);
    for (const id of whole) expect(clipOf(broken, id)).toEqual(clipOf(plain, id));
  });

  test('a split inside a ramp takes both halves off before it is made, wherever in the ramp', () => {
    const plain = parade();
    const joined = join(plain);
    const [, second] = joined.reel.items as Clip[];
    for (const [id, at] of [
      ['clip-out', 79],
      ['clip-out', 70],
      ['clip-in', 1],
      ['clip-in', Math.floor(bendWindow(second!.map, 1).to) - 1],
    ] as const) {
      const split = reconcileReel(splitClip(joined, id, at, 'tail'));
      expect(split).toEqual(splitClip(plain, id, at, 'tail'));
    }
  });

  test('of a chain the clip in the middle keeps its other ramp when a neighbour goes', () => {
    const plain = parade();
    const both = putJoin(join(plain), 'clip-in', DEFAULT_JOIN, 'k');
    const broken = reconcileReel(removeItem(both, 'clip-out'));
    expect(broken.reel.joins.map(({ id }) => id)).toEqual(['k']);
    expect(reconcileReel(takeJoinOff(broken, 'k')).reel.items).toEqual(plain.reel.items.slice(1));
  });

  test('goes into a group with its clips and comes out again; another rate of the reel leaves it', () => {
    const joined = join(parade());
    const bound = groupItems(joined, ['clip-out', 'clip-in'], { clipId: 'g', sourceId: 'together', name: 'whip' });
    expect([bound.reel.joins, insideGroup(bound, 'together').reel.joins]).toEqual([[], joined.reel.joins]);
    expect(parseProject(JSON.parse(JSON.stringify(bound)))).toEqual(bound);
    expect(ungroup(bound, 'g')).toEqual(joined);
    const other = setReelRate(joined, rate(48));
    expect(other.reel.joins).toHaveLength(1);
    expect(frames(takeJoinOff(other, 'j'))).toEqual([160, 160, 160]);
  });
});

const moving = (camera: (n: number) => Partial<CameraMotion>): SourceMotion => ({
  pairs: Array.from({ length: 599 }, (_, n) => ({
    confidence: 1,
    exposure: 0,
    camera: { x: 0, y: 0, push: 0, roll: 0, sure: 0.9, ...camera(n) },
  })),
  across: new Map(),
});

describe('matched by motion', () => {
  test('both pictures go equally far a frame across the cut, though one was shot three times as fast and speeds up', () => {
    const motions = { before: moving(() => ({ x: 0.01 })), after: moving((n) => ({ x: 0.03 + n * 2e-5, y: 0.002 })) };
    const joined = putMatchedJoin(parade(), 'clip-out', DEFAULT_JOIN, 'j', motions);
    const { before, after } = motionAtJoin(joined, 'clip-out', motions.before, motions.after)!;
    expect(after.perFrame / before.perFrame).toBeCloseTo(1, 2);
    const [first, second] = atCut(joined);
    expect(first / second).toBeGreaterThan(3);
    expect(Math.sqrt(first * second)).toBeCloseTo(4, 3);
    expect(joinAfter(joined, 'clip-out')!.matched).toBeCloseTo(first / second, 6);
  });

  test('pictures that do not move the same way are not matched', () => {
    const put = (camera: Partial<CameraMotion>) =>
      putMatchedJoin(parade(), 'clip-out', DEFAULT_JOIN, 'j', {
        before: moving(() => ({ x: 0.01 })),
        after: moving(() => camera),
      });
    expect(() => put({ x: -0.01 })).toThrow(/do not move the same way/);
    expect(() => put({ push: 0.02 })).toThrow(/do not move the same way/);
    expect(() => put({})).toThrow(/do not move the same way/);
  });
});

describe('stretches that fit', () => {
  const right = { kind: 'shift' as const, degrees: 0, perFrame: 0.025, sure: 1 };
  /** Goes left, then right and a little down, then stands still. */
  const boat = moving((n) => (n < 200 ? { x: -0.01 } : n < 320 ? { x: 0.01, y: 0.001 } : {}));
  const motions = new Map([
    ['in', moving(() => ({ x: 0.02, y: 0.008 }))],
    ['boat', boat],
  ]);

  test('are those that move the same way, the nearest in angle and speed first', () => {
    const found = fittingStretches(parade(), right, motions);
    expect(found.map(({ sourceId, from }) => [sourceId, from])).toEqual([
      ['boat', expect.closeTo(200, -1)],
      ['in', 0],
    ]);
    expect(found[0]!.apart).toBeLessThan(8);
    expect(found[0]!.pace).toBeCloseTo(1, 1);
    expect(fittingStretches(parade(), { ...right, kind: 'still', degrees: undefined }, motions)).toEqual([]);
  });

  test('taken, the clip begins (or ends) with the stretch, of whichever footage it is', () => {
    const stretch = fittingStretches(parade(), right, motions)[0]!;
    const taken = takeStretch(parade(), 'clip-in', 'after', stretch);
    expect(clipOf(taken, 'clip-in').sourceId).toBe('boat');
    expect(positionAt(clipOf(taken, 'clip-in').map, 0)).toBeCloseTo(stretch.from, 6);
    expect(frames(taken)).toEqual(frames(parade()));
    const ended = takeStretch(parade(), 'clip-out', 'before', { ...stretch, sourceId: 'out', to: 300 });
    expect(positionAt(clipOf(ended, 'clip-out').map, 79)).toBeCloseTo(300, 6);
  });

  test('taken by a clip that runs backward, it turns round: backward the stretch would move the other way', () => {
    const stretch = fittingStretches(parade(), right, motions)[0]!;
    const turned = updateClip(parade(), 'clip-in', (c) => withMap(c, reverseMap(c.map)));
    for (const project of [turned, join(turned)]) {
      const { map } = clipOf(takeStretch(project, 'clip-in', 'after', stretch), 'clip-in');
      expect(reachSlope(map, 0)).toBeGreaterThan(0);
      expect(positionAt(map, 0)).toBeCloseTo(stretch.from, 6);
    }
  });

  test('taken where there is a join, it stands at the cut and the join stays, as fast as the footage allows', () => {
    const stretch = fittingStretches(parade(), right, motions)[0]!;
    const joined = join(parade());
    const taken = reconcileReel(takeStretch(joined, 'clip-in', 'after', stretch));
    expect(clipOf(taken, 'clip-in').sourceId).toBe('boat');
    expect(positionAt(clipOf(taken, 'clip-in').map, 0)).toBeCloseTo(stretch.from, 6);
    expect(taken.reel.joins).toMatchObject([
      { id: 'j', before: 'clip-out', after: 'clip-in', into: DEFAULT_JOIN.into },
    ]);
    expect(taken.reel.joins[0]!.peak).toBeLessThanOrEqual(DEFAULT_JOIN.peak);
    expect(frames(taken)).toEqual(frames(joined));
    const ended = reconcileReel(takeStretch(joined, 'clip-out', 'before', { ...stretch, sourceId: 'out', to: 450 }));
    expect(positionAt(clipOf(ended, 'clip-out').map, 79)).toBeCloseTo(450, 6);
    expect(ended.reel.joins).toHaveLength(1);
    const plain = takeStretch(parade(), 'clip-in', 'after', stretch);
    expect(clipOf(takeJoinOff(taken, 'j'), 'clip-out')).toEqual(clipOf(plain, 'clip-out'));
  });
});

describe('a first join', () => {
  test('is as fast as the source allows, with ramps no longer than a third of each clip', () => {
    const rich = firstJoin(parade(), 'clip-out', 'j');
    expect(joinAfter(rich, 'clip-out')).toMatchObject({ id: 'j', peak: DEFAULT_JOIN.peak, into: DEFAULT_JOIN.into });
    // Short clips of all the source there is: a slower one is made.
    const poor = ['out', 'in'].reduce(
      (project, id) => appendClip(addSource(project, { ...source(id), frames: 30 }), `clip-${id}`, id),
      emptyProject(rate(24)),
    );
    const slow = joinAfter(firstJoin(poor, 'clip-out', 'j'), 'clip-out')!;
    expect(slow.peak).toBeLessThan(DEFAULT_JOIN.peak);
    expect(slow.peak).toBeGreaterThan(1);
  });

  test('all cuts of a chain have one peak, the fastest that all of them allow', () => {
    let n = 0;
    const { project, joined, refused } = joinAll(parade(), ['clip-out', 'clip-in', 'clip-boat'], () => `j${n++}`);
    expect([joined, refused]).toEqual([2, []]);
    expect(new Set(project.reel.joins.map(({ peak }) => peak)).size).toBe(1);
    expect(new Set(project.reel.joins.map(({ id }) => id)).size).toBe(2);
  });

  test('a change keeps its id and everything else, and needs a join that is there', () => {
    const none = { before: undefined, after: undefined };
    const joined = firstJoin(parade(), 'clip-out', 'j');
    const changed = changeJoin(joined, 'clip-out', { hold: 3 }, none);
    expect(joinAfter(changed, 'clip-out')).toMatchObject({ id: 'j', hold: 3, into: DEFAULT_JOIN.into });
    expect(() => changeJoin(parade(), 'clip-out', { hold: 3 }, none)).toThrow(/not on the reel/);
    expect(() => matchJoin(joined, 'clip-out', none)).toThrow(/motion of this footage is not known/);
  });
});

describe('a ramp join as asked', () => {
  test('may be as short as two frames a side, and no shorter', () => {
    expect(joinAfter(join(parade(), { into: 2, outOf: 2, hold: 0 }), 'clip-out')).toMatchObject({ into: 2, outOf: 2 });
    expect(() => join(parade(), { into: 1, outOf: 2, hold: 0 })).toThrow(/2 to 10000 frames/);
  });

  test('has an ease that is one', () => {
    expect(() => join(parade(), { ease: 'sharp' as never })).toThrow(/ease/);
  });

  test('keeps its id, whatever id a change brings', () => {
    const joined = join(parade());
    const changed = putJoin(joined, 'clip-out', { ...DEFAULT_JOIN, peak: 3 }, 'another');
    expect(changed.reel.joins.map(({ id, peak }) => [id, peak])).toEqual([['j', 3]]);
  });
});
