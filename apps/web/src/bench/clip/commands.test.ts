import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { bench, clipOf, itemIds, onBench, openBench, project, said, steps } from '../../../test/bench.ts';
import { activate, benchStore, select } from '../../session/bench-state.ts';
import { undo } from '../../session/session.ts';
import * as compare from '../compare/commands.ts';
import { keepThisVersion, forgetVersion, switchTo } from '../compare/versions.ts';
import { closeHere, groupHere, openHere, ungroupHere } from '../group/commands.ts';
import { joinHere, joinPicked, takeOffHere } from '../join/commands.ts';
import { cuesFromCuts, leaveGapHere, pinHere } from '../reel/commands.ts';
import { clearReelRange, reelIn, reelOut, toggleReelLoop } from '../reel/range-commands.ts';
import * as ranges from '../speed/range-commands.ts';
import * as clip from './commands.ts';

beforeEach(() => {
  jest.useFakeTimers();
  openBench();
  activate('c0', 30);
});
afterEach(() => void jest.useRealTimers());

describe('bends', () => {
  test('one is put at the playhead and selected; it can be widened, moved and walked to', () => {
    clip.bendHere();
    expect(bench().selection).toEqual({ kind: 'vertex', index: 1 });
    clip.widenBend(4);
    expect(clipOf('c0').map.bends[1]).toMatchObject({ widthFrames: clip.NEW_BEND_FRAMES + 4 });
    clip.nudge(2, 10);
    expect(clipOf('c0').map.vertices[1]).toMatchObject({ t: 32, s: 160 });
    activate('c0', 0);
    clip.walkBends(1);
    expect(bench().k).toBe(32);
    clip.walkBends(1);
    expect(bench().k).toBe(32);
    clip.walkBends(-1);
    expect(bench().k).toBe(32);
    clip.removeSelected();
    expect(clipOf('c0').map.vertices).toHaveLength(2);
    expect(bench().selection).toEqual({ kind: 'clip' });
  });

  test('what is refused is said and is no step', () => {
    clip.bendHere(0);
    expect(said).toHaveLength(1);
    expect(said[0]).toMatch(/^[A-Z].*\.$/);
    expect(steps()).toBe(0);
  });

  test('a hold, reversing, and back to plain', () => {
    const plain = clipOf('c0').map;
    clip.holdHere(10);
    // The frame was there once before.
    expect(onBench().frames).toBe(81);
    clip.reverseClip();
    clip.plainAgain();
    expect(clipOf('c0').map).toEqual(plain);
    expect(steps()).toBe(3);
  });
});

describe('clips', () => {
  test('are split, merged again, moved and taken off', () => {
    clip.splitHere();
    expect(itemIds()).toHaveLength(3);
    expect(onBench()).toMatchObject({ start: 30, frames: 42 });
    activate('c0');
    clip.joinWithNext();
    expect(itemIds()).toEqual(['c0', 'c1']);
    clip.moveClip(1);
    expect(itemIds()).toEqual(['c1', 'c0']);
    clip.takeOffReel();
    expect(itemIds()).toEqual(['c1']);
    expect(onBench().clip.id).toBe('c1');
    undo();
    expect(itemIds()).toEqual(['c1', 'c0']);
  });

  test('a gap is left where one was, and a method changed only when it differs', () => {
    leaveGapHere();
    expect(project().reel.items[0]).toMatchObject({ kind: 'gap', frames: 72 });
    const before = steps();
    clip.changeMethod(onBench().clip.method);
    expect(steps()).toBe(before);
    clip.changeMethod('step');
    expect(onBench().clip.method).toBe('step');
  });
});

test('a moment and a cue are set at the playhead, once each', () => {
  clip.markMoment();
  clip.markMoment();
  expect(project().sources[0]!.moments.map(({ frame }) => frame)).toEqual([150, 200]);
  clip.setCue();
  expect(bench().selection).toEqual({ kind: 'cue', id: 'beat' });
  activate('c0', 33);
  clip.setCue();
  clip.removeSelected();
  expect(project().reel.cues.map(({ frame }) => frame)).toEqual([30]);
});

test('a cut is kept on the nearest cue and let go, and there is a cue at every cut', () => {
  activate('c1');
  pinHere();
  expect(clipOf('c1').pin).toBe('beat');
  pinHere();
  expect(clipOf('c1').pin).toBeNull();
  cuesFromCuts();
  expect(project().reel.cues.map(({ frame }) => frame)).toEqual([30, 72]);
});

describe('ranges', () => {
  test('of the clip begin and end with the playhead’s frame and follow what is done to them', () => {
    ranges.markIn();
    expect(bench()).toMatchObject({ range: { from: 30, to: 72 }, selection: { kind: 'range' } });
    activate('c0', 41);
    ranges.markOut();
    expect(bench().range).toEqual({ from: 30, to: 42 });
    ranges.fitTheRange(24);
    expect(bench().range).toEqual({ from: 30, to: 54 });
    ranges.scaleTheRange(2);
    expect(bench().range).toEqual({ from: 30, to: 42 });
    ranges.setSpeedOfRange(0.5);
    expect(bench().range).toEqual({ from: 30, to: 54 });
    ranges.turnTheRange();
    ranges.bounceTheRange();
    expect(steps()).toBe(5);
    ranges.clearRange();
    expect(bench()).toMatchObject({ range: undefined, selection: { kind: 'clip' } });
    expect(() => ranges.fitTheRange(3)).not.toThrow();
    expect(steps()).toBe(5);
  });

  test('of the reel too, and playing goes round it', () => {
    reelIn();
    expect(project().reel.range).toEqual({ from: 30, to: 120 });
    activate('c1', 3);
    reelOut();
    expect(project().reel.range).toEqual({ from: 30, to: 76 });
    toggleReelLoop();
    expect(bench()).toMatchObject({ reelLoop: true, clock: 1, activeId: 'c0', k: 30 });
    toggleReelLoop();
    expect(bench().reelLoop).toBe(false);
    clearReelRange();
    expect(project().reel.range).toBeNull();
    toggleReelLoop();
    expect(bench().reelLoop).toBe(false);
  });
});

describe('groups', () => {
  test('picked clips become one, which is opened, closed and taken apart', () => {
    benchStore.setState({ picked: ['c1'] });
    groupHere();
    const [group] = itemIds();
    expect(itemIds()).toHaveLength(1);
    expect(onBench()).toMatchObject({ start: 0, frames: 120 });
    openHere();
    expect(itemIds()).toEqual(['c0', 'c1']);
    expect(bench()).toMatchObject({ activeId: 'c0', k: 30 });
    activate('c1', 10);
    closeHere();
    expect(bench()).toMatchObject({ activeId: group, k: 82 });
    ungroupHere();
    expect(itemIds()).toEqual(['c0', 'c1']);
    expect(bench()).toMatchObject({ activeId: 'c1', k: 10 });
  });

  test('a clip that is not a group is not opened', () => {
    openHere();
    closeHere();
    expect(said).toEqual([expect.stringMatching(/no group/)]);
  });
});

describe('ramp joins', () => {
  test('a clip without a next one is refused in words', () => {
    activate('c1');
    joinHere();
    expect(said[0]).toMatch(/clip has to follow/);
    expect(project().reel.joins).toEqual([]);
  });

  test('one is made as fast as the source allows, selected, and taken off again', () => {
    const before = project().reel.items;
    joinHere();
    const [join] = project().reel.joins;
    expect(join).toMatchObject({ before: 'c0', after: 'c1' });
    expect(bench().selection).toEqual({ kind: 'join', id: 'c0' });
    joinHere();
    expect(project().reel.joins).toHaveLength(1);
    takeOffHere(join!.id);
    expect(project().reel.items).toEqual(before);
  });

  test('all cuts of the picked clips, one undo', () => {
    benchStore.setState({ picked: ['c1'] });
    joinPicked();
    expect(project().reel.joins).toHaveLength(1);
    expect(said[0]).toMatch(/^1 cut joined/);
    undo();
    expect(project().reel.joins).toEqual([]);
  });
});

describe('comparing', () => {
  test('with the last version that was kept, else with the clip at 100 %', () => {
    compare.toggleCompare();
    expect(bench().compare).toMatchObject({ other: { kind: 'plain' }, how: 'wipe', by: 'time' });
    compare.nextHow();
    compare.nextInStep();
    expect(bench().compare).toMatchObject({ how: 'blink', by: 'source' });
    compare.toggleCompare();
    expect(bench().compare).toBeUndefined();
    keepThisVersion();
    const id = clipOf('c0').versions[0]!.id;
    compare.toggleCompare();
    expect(bench().compare).toMatchObject({ other: { kind: 'version', id } });
    expect(said).toEqual(['Kept as “version 1”.']);
  });

  test('what it is compared with is the clip as it would be', () => {
    clip.holdHere(10);
    const plain = compare.compared(onBench(), { other: { kind: 'plain' }, how: 'wipe', by: 'time', edge: 0.5 });
    expect(plain?.clip.map.vertices).toHaveLength(2);
    const step = compare.compared(onBench(), {
      ...{ how: 'wipe', by: 'time', edge: 0.5 },
      other: { kind: 'method', method: 'step', level: undefined },
    });
    expect(step?.clip).toMatchObject({ method: 'step', map: onBench().clip.map });
    const gone = { other: { kind: 'version', id: 'gone' }, how: 'wipe', by: 'time', edge: 0.5 } as const;
    expect(compare.compared(onBench(), gone)).toBeUndefined();
  });

  test('versions are switched to and forgotten', () => {
    keepThisVersion();
    const [version] = clipOf('c0').versions;
    clip.holdHere(10);
    switchTo(version!.id);
    expect(onBench().frames).toBe(72);
    forgetVersion(version!.id);
    expect(clipOf('c0').versions.some(({ id }) => id === version!.id)).toBe(false);
  });
});

test('without a clip on the bench no command does anything', () => {
  select({ kind: 'clip' });
  clip.takeOffReel();
  clip.takeOffReel();
  const before = steps();
  for (const command of [
    ...[clip.bendHere, clip.splitHere, clip.joinWithNext, clip.plainAgain, clip.takeOffReel, clip.markMoment],
    ...[
      clip.setCue,
      clip.removeSelected,
      pinHere,
      leaveGapHere,
      groupHere,
      openHere,
      ungroupHere,
      joinHere,
      joinPicked,
    ],
    ...[ranges.markIn, ranges.markOut, ranges.turnTheRange, reelIn, reelOut, toggleReelLoop, keepThisVersion],
    ...[compare.toggleCompare, closeHere],
  ])
    command();
  expect(steps()).toBe(before);
  expect(said).toEqual([]);
});
